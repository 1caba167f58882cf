package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"journeyman/internal/api"
	"journeyman/internal/demo"
	"journeyman/internal/desk/command"
	"journeyman/internal/jobs"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
)

func serveCommand(cfg *config) *cobra.Command {
	var after time.Duration
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve the application",
		RunE: func(cmd *cobra.Command, _ []string) error {
			p, err := openPlace(cmd.Context(), cfg, false)
			if err != nil {
				return err
			}
			defer p.Close()
			return serve(cmd.Context(), cfg, p, service{after: after})
		},
	}
	servingFlags(cmd, cfg)
	cmd.Flags().DurationVar(&after, "deliver-after", 0, "let the stand-in carrier deliver by itself after this long; 0: only on the button")
	return cmd
}

func servingFlags(cmd *cobra.Command, cfg *config) {
	f := cmd.Flags()
	f.StringVar(&cfg.Addr, "addr", cfg.Addr, "address to listen on (JOURNEYMAN_ADDR)")
	f.StringVar(&cfg.Metrics, "metrics-addr", cfg.Metrics, "address on which metrics are served; empty for none (JOURNEYMAN_METRICS_ADDR)")
	f.StringVar(
		&cfg.Hosts, "hosts", cfg.Hosts,
		"names by which it is reached, separated by commas; those of loopback if it listens there (JOURNEYMAN_HOSTS)",
	)
	f.StringVar(&cfg.Proxies, "trusted-proxies", cfg.Proxies,
		"networks of proxies that are believed about whom they pass on, such as 10.0.0.0/8 (JOURNEYMAN_TRUSTED_PROXIES)")
	f.StringVar(
		&cfg.Carrier, "carrier", cfg.Carrier,
		"URL of the carrier; without it a simulated one is started, a process of its own (JOURNEYMAN_CARRIER)",
	)
	f.StringVar(
		&cfg.Printer, "printer", cfg.Printer,
		"URL of the printer; without it a simulated one is started, a process of its own (JOURNEYMAN_PRINTER)",
	)
	f.StringVar(&cfg.TLS, "tls", cfg.TLS, "yes if it is reached over TLS, no if not; auto: unless it listens on loopback (JOURNEYMAN_TLS)")
}

// reached is how the server is reached: by which names, through which proxies, over TLS or not.
func (cfg *config) reached(addr net.Addr) (hosts []string, proxies []netip.Prefix, secure bool, err error) {
	local := false
	if a, ok := addr.(*net.TCPAddr); ok {
		local = a.IP.IsLoopback()
	}
	switch cfg.TLS {
	case "yes":
		secure = true
	case "auto":
		secure = !local
	case "no":
	default:
		return nil, nil, false, fmt.Errorf("--tls %s: use yes, no or auto", cfg.TLS)
	}
	for host := range strings.SplitSeq(cfg.Hosts, ",") {
		if host = strings.ToLower(strings.TrimSpace(host)); host != "" {
			hosts = append(hosts, host)
		}
	}
	if local {
		hosts = append(hosts, "localhost", "127.0.0.1", "::1")
	}
	for text := range strings.SplitSeq(cfg.Proxies, ",") {
		if text = strings.TrimSpace(text); text == "" {
			continue
		}
		p, err := netip.ParsePrefix(text)
		if err != nil {
			return nil, nil, false, fmt.Errorf("--trusted-proxies %s: networks such as 10.0.0.0/8 or ::1/128 are expected", text)
		}
		proxies = append(proxies, p)
	}
	return hosts, proxies, secure, nil
}

// serveMetrics answers whoever watches the server, on an address of its own, until ctx ends.
func serveMetrics(ctx context.Context, addr string, h http.Handler, log *slog.Logger) {
	if addr == "" {
		return
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		log.Warn("metrics are not served", "address", addr, "error", err)
		return
	}
	srv := &http.Server{Handler: h, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 10 * time.Second, WriteTimeout: 10 * time.Second}
	context.AfterFunc(ctx, func() { _ = srv.Close() })
	go func() { _ = srv.Serve(l) }()
}

func demoCommand(cfg *config) *cobra.Command {
	var after time.Duration
	var reset, fast, bookOnly, copied bool
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve the application with the demo data on a private database",
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx := cmd.Context()
			l, err := listen(cfg.Addr)
			if err != nil {
				return err
			}
			defer func() { _ = l.Close() }()
			if copied {
				url, err := postgres.CopyDatabase(ctx, cfg.Database, fmt.Sprintf("copy_%d", os.Getpid()))
				if err != nil {
					return err
				}
				cfg.Database = url
				defer func() {
					if err := postgres.DropDatabase(context.WithoutCancel(ctx), url); err != nil {
						slog.Error("the copy of the database could not be removed", "error", err)
					}
				}()
			}
			fmt.Println("Starting the private database …")
			p, err := openPlace(ctx, cfg, fast)
			if err != nil {
				return err
			}
			if reset {
				if cfg.Database != "" {
					p.Close()
					return errors.New("--reset empties the private database only: unset DATABASE_URL")
				}
				fmt.Println("Removing what it held …")
				p.Store.Close()
				p.unwatch()
				if err := p.cluster.Remove(); err != nil {
					return err
				}
				if p, err = openPlace(ctx, cfg, fast); err != nil {
					return err
				}
			}
			defer p.Close()
			if err := fillDemo(ctx, cfg, p); err != nil {
				return err
			}
			if bookOnly {
				p.Store.Close()
				fmt.Printf("The demo book is made: %s\n", p.url)
				<-ctx.Done()
				return nil
			}
			// What the story sent off before it began stays under way: only what is dispatched in it arrives by itself.
			made, err := p.Read(ctx).Setting(demoMade)
			if err != nil {
				return err
			}
			since, err := time.Parse(time.RFC3339Nano, made)
			if err != nil {
				return fmt.Errorf("the demo's data is not complete (start afresh with `make demo-reset`): %w", err)
			}
			return serve(ctx, cfg, p, service{after: after, since: since, demo: true, listener: l})
		},
	}
	servingFlags(cmd, cfg)
	cmd.Flags().DurationVar(
		&after, "deliver-after", 3*time.Minute, "let the stand-in carrier deliver what is dispatched from now on after this long",
	)
	cmd.Flags().BoolVar(&reset, "reset", false, "throw the demo's data away and start afresh")
	cmd.Flags().BoolVar(
		&bookOnly, "book-only", false, "make the data, print where the database is, and wait: for tests, which serve copies of it",
	)
	cmd.Flags().BoolVar(&copied, "copy", false, "serve a copy of the database that DATABASE_URL names, and remove it in the end")
	cmd.Flags().BoolVar(&fast, "fast", false, "do not wait for the disk: for tests, whose data is disposable")
	return cmd
}

// demoMade is the setting that says when the demo's data was complete.
const demoMade = "demo made"

func fillDemo(ctx context.Context, cfg *config, p *place) error {
	there, err := p.Read(ctx).HasOrders()
	if err != nil || there {
		return err
	}
	say := func(what string) { fmt.Printf("  %s\n", what) }
	if fi, err := os.Stdout.Stat(); err == nil && fi.Mode()&os.ModeCharDevice != 0 {
		say = func(what string) { fmt.Printf("\r\033[K  %s", what) }
	}
	z, err := zone(cfg)
	if err != nil {
		return err
	}
	fmt.Println("Making the demo book of Kilnmoor Ceramic Supply …")
	var people []demo.Person
	for _, x := range api.DemoPeople() {
		people = append(people, demo.Person{Login: x.Login, Name: x.Name, Role: command.Role(x.Role)})
	}
	begin := time.Now()
	err = demo.Run(ctx, func(clock func() time.Time) *rooms.Rooms {
		return rooms.Open(p.Store, rooms.Options{Now: clock, Zone: z, Carrier: standin.Carrier{Now: clock}})
	}, people, begin, say)
	if err != nil {
		return fmt.Errorf("the demo book could not be made (start afresh with `make demo-reset`): %w", err)
	}
	say(fmt.Sprintf("made in %.1f s\n", time.Since(begin).Seconds()))
	return p.InTx(ctx, func(tx *store.Tx) error { return tx.Remember(demoMade, begin.Format(time.RFC3339Nano)) })
}

// service is how a server is run.
type service struct {
	after    time.Duration
	since    time.Time
	demo     bool
	listener net.Listener
}

func listen(addr string) (net.Listener, error) {
	l, err := net.Listen("tcp", addr)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, fmt.Errorf("the address %s is taken: stop what listens there, or choose another with --addr 127.0.0.1:8081", addr)
	}
	if err != nil {
		return nil, fmt.Errorf("the address %s cannot be used: %w", addr, err)
	}
	return l, nil
}

// serve answers until ctx ends, then lets running requests finish.
func serve(ctx context.Context, cfg *config, p *place, how service) error {
	z, err := zone(cfg)
	if err != nil {
		return err
	}
	if how.listener == nil {
		if how.listener, err = listen(cfg.Addr); err != nil {
			return err
		}
	}
	log := slog.Default()
	live := api.NewLive(p.Store, log)
	carrier := cfg.Carrier
	if carrier == "" {
		url, end, err := startCarrier(ctx, how.after, how.since)
		if err != nil {
			return err
		}
		defer end()
		carrier = url
	}
	printer := cfg.Printer
	if printer == "" {
		url, end, err := startStandin(ctx, printerReady, "printer", "--tied")
		if err != nil {
			return err
		}
		defer end()
		printer = url
	}
	d := rooms.Open(p.Store, rooms.Options{
		Zone: z, Carrier: standin.Client{URL: carrier}, Printer: standin.PrinterClient{URL: printer}, Scale: standin.Scale{},
		Tell: live.Tell, Log: log,
	})
	work, stop := context.WithCancel(context.WithoutCancel(ctx))
	defer stop()
	go live.Run(work)
	go d.Allocation.KeepShortages(work, 20*time.Second)
	queue, err := jobs.Start(work, d, log)
	if err != nil {
		return err
	}
	hosts, proxies, secure, err := cfg.reached(how.listener.Addr())
	if err != nil {
		return err
	}
	s := api.New(api.Options{Desk: d, Live: live, Log: log, Demo: how.demo, Secure: secure, Hosts: hosts, Proxies: proxies})
	serveMetrics(work, cfg.Metrics, s.Metrics(), log)
	// Streams that are open end when the server stops.
	requests, end := context.WithCancel(context.WithoutCancel(ctx))
	defer end()
	srv := &http.Server{
		Handler: s.Handler(), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 32 << 10,
		BaseContext: func(net.Listener) context.Context { return requests },
		ErrorLog:    slog.NewLogLogger(log.Handler(), slog.LevelWarn),
	}
	failed := make(chan error, 1)
	go func() { failed <- srv.Serve(how.listener) }()
	fmt.Printf("Journeyman is ready: http://%s\n", how.listener.Addr())
	if how.demo {
		fmt.Println("Choose who you are on the first page. Ctrl-C stops server and database; the data stays.")
	}
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	fmt.Fprintln(os.Stderr, "Stopping …")
	time.AfterFunc(3*time.Second, end)
	live.End()
	grace, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return errors.Join(srv.Shutdown(grace), queue.Stop(grace))
}
