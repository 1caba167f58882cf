// Package beside lets several processors work at one computation, so that its answer does not depend on how many there are: they
// share what nobody changes, and each changes what is its own. It is the only part of core that starts anything; all that it
// starts has ended when it returns, or, with [Ahead], when what was made is used up.
package beside

import (
	"runtime"
	"sync"
)

// few rows are not worth the help of another processor.
const few = 4096

// Hands is how many processors are put to work over so many rows.
func Hands(rows int) int {
	if rows <= few {
		return 1
	}
	return runtime.GOMAXPROCS(0)
}

// Split calls do for so many parts of n rows, each on a processor of its own, and waits for all of them. A part may be empty.
func Split(n, parts int, do func(part, first, after int)) {
	var all sync.WaitGroup
	faults := make([]any, parts)
	for part := 1; part < parts; part++ {
		all.Go(func() {
			defer func() { faults[part] = recover() }()
			do(part, n*part/parts, n*(part+1)/parts)
		})
	}
	do(0, 0, n/parts)
	all.Wait()
	for _, fault := range faults {
		rethrow(fault)
	}
}

// rethrow lets who waits for the work have the fault, if there was one: elsewhere nobody could catch it.
func rethrow(fault any) {
	if fault != nil {
		panic(fault)
	}
}

// Ahead makes something of so many rows that is used up in the order in which it is made, `size` pieces at a time. What it returns
// calls use for these, and has to be called once; they are good until use returns. If the rows are many, fill runs on another processor
// from now on, ahead of the one that uses.
//
// fill gets a room for pieces, and hands on as many of them as it has filled; it gets back a room for the next ones.
func Ahead[T any](rows, size int, fill func(room []T, handOn func([]T) []T)) (each func(use func([]T))) {
	if Hands(rows) == 1 {
		return func(use func([]T)) {
			fill(make([]T, size), func(made []T) []T {
				use(made)
				return made[:size]
			})
		}
	}
	const rooms = 8
	ready, free := make(chan []T, rooms), make(chan []T, rooms)
	for range rooms {
		free <- make([]T, size)
	}
	var fault any
	go func() {
		defer close(ready)
		defer func() { fault = recover() }()
		fill(make([]T, size), func(made []T) []T {
			ready <- made
			return <-free
		})
	}()
	return func(use func([]T)) {
		for made := range ready {
			use(made)
			free <- made[:size]
		}
		rethrow(fault)
	}
}
