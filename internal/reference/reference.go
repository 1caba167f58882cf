// Package reference asks programs from outside the project, for tests: the solver HiGHS (Q. Huangfu and J. A. J.
// Hall, Parallelizing the dual revised simplex method, Mathematical Programming Computation 10, 2018) and binpackingjs,
// as they come with the browser tests' packages.
package reference

import (
	"bufio"
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"testing"
)

// Optima returns the optimal objective of each integer program in the CPLEX LP form. The test
// fails where the packages are not installed; `make test` installs them.
func Optima(t *testing.T, programs []string) []int64 {
	t.Helper()
	return ask(t, "highs", "solve.mjs", programs)
}

// CartonsOf is boxes that go into cartons of one size.
type CartonsOf struct {
	Inner [3]int64 `json:"inner"` // in millimetres
	Most  int64    `json:"most"`  // what goes into one, in grams
	Boxes []Box    `json:"boxes"`
}

// Box is one of them.
type Box struct {
	Size   [3]int64 `json:"size"`
	Weight int64    `json:"weight"`
}

// Cartons returns how many cartons binpackingjs takes for each: an upper bound, since it is a heuristic (E. Dube and L. R. Kanavathy,
// Optimizing Three-Dimensional Bin Packing Through Simulation, 2006).
func Cartons(t *testing.T, problems []CartonsOf) []int64 {
	t.Helper()
	return ask(t, "binpackingjs", "cartons.mjs", problems)
}

// ask gives problems to a script, one a line, and returns its answers.
func ask[T any](t *testing.T, needs, script string, problems []T) []int64 {
	t.Helper()
	_, here, _, _ := runtime.Caller(0)
	dir := filepath.Join(filepath.Dir(here), "..", "..", "e2e")
	if _, err := os.Stat(filepath.Join(dir, "node_modules", needs)); err != nil {
		t.Fatalf("%s is not installed: run make tools", needs)
	}
	var in bytes.Buffer
	for _, p := range problems {
		line, err := json.Marshal(p)
		if err != nil {
			t.Fatal(err)
		}
		in.Write(line)
		in.WriteByte('\n')
	}
	cmd := exec.Command("node", filepath.Join(dir, "reference", script))
	cmd.Dir, cmd.Stdin, cmd.Stderr = dir, &in, os.Stderr
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	var answers []int64
	for lines := bufio.NewScanner(bytes.NewReader(out)); lines.Scan(); {
		n, err := strconv.ParseInt(lines.Text(), 10, 64)
		if err != nil {
			t.Fatal(err)
		}
		answers = append(answers, n)
	}
	if len(answers) != len(problems) {
		t.Fatalf("%d problems, %d answers", len(problems), len(answers))
	}
	return answers
}
