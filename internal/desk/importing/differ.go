package importing

import (
	"fmt"
	"strings"

	"journeyman/internal/exchange"
)

// field is a value of a record that a file may change: as the report names it, and as it shows it.
type field[T any] struct {
	name string
	show func(T) string
}

func text[T any](name string, of func(T) string) field[T] { return field[T]{name, of} }

func number[T any](name string, of func(T) int64) field[T] {
	return field[T]{name, func(x T) string { return fmt.Sprint(of(x)) }}
}

func yes[T any](name string, of func(T) bool) field[T] {
	return field[T]{name, func(x T) string { return fmt.Sprint(of(x)) }}
}

// hundredths is a field that is kept in hundredths: money, or a discount in per cent.
func hundredths[T any](name string, of func(T) int64) field[T] {
	return field[T]{name, func(x T) string { return fmt.Sprintf("%d.%02d", of(x)/100, of(x)%100) }}
}

// differences lists what two records say differently, as "name: here → in the file".
func differences[T any](fields []field[T], here, there T) (out []string) {
	for _, f := range fields {
		if a, b := f.show(here), f.show(there); a != b {
			out = append(out, fmt.Sprintf("%s: %s → %s", f.name, quoted(a), quoted(b)))
		}
	}
	return out
}

func quoted(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// first says whether a row is the first that is about that key. One that comes again is a fault, which says what stands once.
func first[K comparable](c *comparing, f *FileReport, rows map[K]int, key K, n int, column, got, once string) bool {
	if before := rows[key]; before != 0 {
		c.wrong(f, n, column, got, "%s once; it stands in row %d already", once, before)
		return false
	}
	rows[key] = n
	return true
}

// changes notes what a row does to the record that is here, if there is one, and says whether it does anything.
func changes[V, T any](f *FileReport, r exchange.Row[V], what string, here *T, there T, fields []field[T]) bool {
	if here == nil {
		f.note(r.N, what, "new", "")
		return true
	}
	if d := differences(fields, *here, there); len(d) > 0 {
		f.note(r.N, what, "changed", strings.Join(d, "; "))
		return true
	}
	f.note(r.N, what, "unchanged", "")
	return false
}
