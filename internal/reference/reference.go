// Package reference asks a solver from outside the project, for tests: HiGHS (Q. Huangfu and J. A. J.
// Hall, Parallelizing the dual revised simplex method, Mathematical Programming Computation 10, 2018),
// as it comes with the browser tests' packages.
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
	_, here, _, _ := runtime.Caller(0)
	dir := filepath.Join(filepath.Dir(here), "..", "..", "e2e")
	if _, err := os.Stat(filepath.Join(dir, "node_modules", "highs")); err != nil {
		t.Fatal("the solver is not installed: run make tools")
	}
	var in bytes.Buffer
	for _, p := range programs {
		line, err := json.Marshal(p)
		if err != nil {
			t.Fatal(err)
		}
		in.Write(line)
		in.WriteByte('\n')
	}
	cmd := exec.Command("node", filepath.Join(dir, "reference", "solve.mjs"))
	cmd.Dir, cmd.Stdin, cmd.Stderr = dir, &in, os.Stderr
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	var optima []int64
	for lines := bufio.NewScanner(bytes.NewReader(out)); lines.Scan(); {
		n, err := strconv.ParseInt(lines.Text(), 10, 64)
		if err != nil {
			t.Fatal(err)
		}
		optima = append(optima, n)
	}
	if len(optima) != len(programs) {
		t.Fatalf("%d programs, %d answers", len(programs), len(optima))
	}
	return optima
}
