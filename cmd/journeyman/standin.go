package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"journeyman/internal/standin"
)

// carrierCommand is the stand-in carrier, a process of its own.
func carrierCommand() *cobra.Command {
	var addr, mode, since string
	var after time.Duration
	var tied bool
	cmd := &cobra.Command{
		Use:   "carrier",
		Short: "Be the simulated carrier that a server asks over HTTP",
		Long: "Be the simulated carrier that a server asks over HTTP. How it behaves can be changed while it runs:\n" +
			`  curl -X POST -d '{"mode":"slow"}' http://ADDRESS/mode`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if !slices.Contains(standin.Modes, standin.Mode(mode)) {
				return fmt.Errorf("--mode %s: use one of %v", mode, standin.Modes)
			}
			c := &standin.Server{Carrier: standin.Carrier{After: after}}
			c.SetMode(standin.Mode(mode))
			if since != "" {
				at, err := time.Parse(time.RFC3339Nano, since)
				if err != nil {
					return fmt.Errorf("--since %s is not a time such as 2027-03-01T09:00:00Z", since)
				}
				c.Since = at
			}
			return serveStandin(cmd.Context(), addr, tied, carrierReady, c)
		},
	}
	f := cmd.Flags()
	f.StringVar(&addr, "addr", "127.0.0.1:0", "address to listen on")
	f.StringVar(
		&mode, "mode", string(standin.Well),
		"how it behaves: well, slow, failing, twice (it says all news twice) or late (it takes shipments and does not say so in time)",
	)
	f.DurationVar(&after, "deliver-after", 0, "deliver by itself after this long; 0: never")
	f.StringVar(&since, "since", "", "deliver only what left after this time")
	f.BoolVar(&tied, "tied", false, "end when the standard input does")
	return cmd
}

// printerCommand is the stand-in printer, a process of its own.
func printerCommand() *cobra.Command {
	var addr, mode string
	var tied bool
	cmd := &cobra.Command{
		Use:   "printer",
		Short: "Be the simulated printer that a server gives documents over HTTP",
		Long: "Be the simulated printer that a server gives documents over HTTP. GET / lists what was printed; " +
			"GET /document?number=1 is one of them.\nHow it behaves can be changed while it runs:\n" +
			`  curl -X POST -d '{"mode":"slow"}' http://ADDRESS/mode`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if !slices.Contains(standin.PrinterModes, standin.Mode(mode)) {
				return fmt.Errorf("--mode %s: use one of %v", mode, standin.PrinterModes)
			}
			p := &standin.Printer{}
			p.SetMode(standin.Mode(mode))
			return serveStandin(cmd.Context(), addr, tied, printerReady, p)
		},
	}
	f := cmd.Flags()
	f.StringVar(&addr, "addr", "127.0.0.1:0", "address to listen on")
	f.StringVar(
		&mode, "mode", string(standin.Well), "how it behaves: well, slow, failing or late (it prints and does not say so in time)",
	)
	f.BoolVar(&tied, "tied", false, "end when the standard input does")
	return cmd
}

// serveStandin answers until ctx ends, or the standard input if it is tied to it: whoever started it holds the other end.
func serveStandin(ctx context.Context, addr string, tied bool, ready string, h http.Handler) error {
	l, err := listen(addr)
	if err != nil {
		return err
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	if tied {
		go func() {
			_, _ = io.Copy(io.Discard, os.Stdin)
			stop()
		}()
	}
	srv := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second}
	context.AfterFunc(ctx, func() { _ = srv.Close() })
	fmt.Printf("%shttp://%s\n", ready, l.Addr())
	if err := srv.Serve(l); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// What stand-ins say before their addresses.
const (
	carrierReady = "The carrier is ready: "
	printerReady = "The printer is ready: "
)

// startCarrier starts the stand-in carrier as a process that ends with this one, and returns its URL.
func startCarrier(ctx context.Context, after time.Duration, since time.Time) (url string, stop func(), err error) {
	args := []string{"carrier", "--tied", "--deliver-after", after.String()}
	if !since.IsZero() {
		args = append(args, "--since", since.Format(time.RFC3339Nano))
	}
	return startStandin(ctx, carrierReady, args...)
}

// startStandin starts a stand-in as a process that ends with this one, and returns its URL.
func startStandin(ctx context.Context, ready string, args ...string) (url string, stop func(), err error) {
	self, err := os.Executable()
	if err != nil {
		return "", nil, err
	}
	cmd := exec.Command(self, args...)
	in, err := cmd.StdinPipe()
	if err != nil {
		return "", nil, err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return "", nil, err
	}
	cmd.Stderr = os.Stderr
	if err := cmd.Start(); err != nil {
		return "", nil, err
	}
	stop = func() {
		_ = in.Close()
		_ = cmd.Wait()
	}
	said := make(chan string, 1)
	go func() {
		line, _ := bufio.NewReader(out).ReadString('\n')
		said <- strings.TrimSpace(line)
	}()
	select {
	case line := <-said:
		if url, ok := strings.CutPrefix(line, ready); ok {
			return url, stop, nil
		}
		err = fmt.Errorf("the stand-in %s did not come up: %q", args[0], line)
	case <-time.After(20 * time.Second):
		err = fmt.Errorf("the stand-in %s did not come up", args[0])
	case <-ctx.Done():
		err = ctx.Err()
	}
	stop()
	return "", nil, err
}
