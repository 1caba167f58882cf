package main

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"journeyman/internal/demo"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/importing"
	"journeyman/internal/exchange"
)

// large times imports of very many order lines that come as a stream, good ones and faulty ones, and says how much memory this
// process took for them at most.
func (b *benching) large() error {
	s, d, ana, err := b.office("large")
	if err != nil {
		return err
	}
	defer s.Close()
	const items = 1000
	base := demo.Bulk(items)[:3]
	check := func(key string, write func(io.Writer) error) (importing.ImportReport, error) {
		text, w := io.Pipe()
		go func() { _ = w.CloseWithError(write(w)) }()
		files := append(slices.Clone(base), exchange.File{Name: "orders.csv", Text: text})
		return d.Importing.CheckFiles(b.ctx, command.Call{Key: key, Actor: ana}, slices.Values(files))
	}

	if err := forgetPeak(); err != nil {
		return err
	}
	begin := time.Now()
	report, err := check(command.NewKey(), func(w io.Writer) error { return demo.WriteFaultyOrders(w, b.most) })
	if err != nil {
		return err
	}
	peak, err := peakMemory()
	if err != nil {
		return err
	}
	fmt.Printf("\nimport of %d faulty order lines: %d faults found in %.1f s, at most %d MB\n",
		b.most, report.Faulty, time.Since(begin).Seconds(), peak)

	if err := forgetPeak(); err != nil {
		return err
	}
	key := command.NewKey()
	begin = time.Now()
	if report, err = check(key, func(w io.Writer) error { return demo.WriteOrders(w, b.most, items) }); err != nil {
		return err
	}
	if report.Faulty > 0 {
		return fmt.Errorf("%d of the good rows are refused, such as: %w", report.Faulty, report.Faults[0])
	}
	checked := time.Since(begin)
	begin = time.Now()
	if _, err := d.Importing.ApplyImport(b.ctx, command.Call{Key: command.NewKey(), Actor: ana}, key, false); err != nil {
		return err
	}
	applied := time.Since(begin)
	if peak, err = peakMemory(); err != nil {
		return err
	}
	fmt.Printf("import of %d good order lines: checked in %.1f s, applied in %.1f s, at most %d MB\n",
		b.most, checked.Seconds(), applied.Seconds(), peak)
	return nil
}

// forgetPeak gives back what memory is not in use, and lets the system forget how much there was at most.
func forgetPeak() error {
	debug.FreeOSMemory()
	return os.WriteFile("/proc/self/clear_refs", []byte("5"), 0)
}

// peakMemory is how many megabytes this process took at most since then.
func peakMemory() (mb int, err error) {
	f, err := os.Open("/proc/self/status")
	if err != nil {
		return 0, err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	for s := bufio.NewScanner(f); s.Scan(); {
		if rest, found := strings.CutPrefix(s.Text(), "VmHWM:"); found {
			_, err = fmt.Sscan(rest, &mb)
			return mb / 1024, err
		}
	}
	return 0, errors.New("the system does not say how much memory was taken")
}
