package main

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/spf13/cobra"

	"journeyman/internal/api"
	"journeyman/internal/cluster"
	"journeyman/internal/demo"
	"journeyman/internal/desk"
	"journeyman/internal/standin"
	"journeyman/internal/store"
)

// benching is a throw-away server that waits for the disk as a real one does.
type benching struct {
	ctx     context.Context
	cluster *cluster.Cluster
	seconds int
	lines   int
}

func benchCommand() *cobra.Command {
	b := &benching{}
	cmd := &cobra.Command{
		Use:   "bench",
		Short: "Measure on a throw-away private database: allocations, pages, imports",
		RunE: func(cmd *cobra.Command, _ []string) error {
			b.ctx = cmd.Context()
			dir := filepath.Join(os.TempDir(), fmt.Sprintf("journeyman-bench-%d", os.Getpid()))
			c, err := cluster.Start(b.ctx, cluster.Options{Dir: dir})
			if err != nil {
				return err
			}
			b.cluster = c
			defer func() {
				if err := c.Remove(); err != nil {
					slog.Error("the bench's database could not be removed", "error", err)
				}
			}()
			for _, part := range []func() error{b.allocations, b.pages, b.imports} {
				if err := part(); err != nil {
					return err
				}
			}
			return nil
		},
	}
	cmd.Flags().IntVar(&b.seconds, "seconds", 5, "how long each rate is measured")
	cmd.Flags().IntVar(&b.lines, "lines", 100_000, "order lines of the import")
	return cmd
}

func (b *benching) open(name string) (*store.Store, error) {
	url := b.cluster.URL(name)
	if err := store.EnsureDatabase(b.ctx, url); err != nil {
		return nil, err
	}
	if _, err := store.Migrate(b.ctx, url); err != nil {
		return nil, err
	}
	return store.Open(b.ctx, url)
}

// clients is how many allocate at once.
const clients = 8

// allocations compares commands with the cheapest thing a transaction can do.
func (b *benching) allocations() error {
	s, err := b.open("allocations")
	if err != nil {
		return err
	}
	defer s.Close()
	d := desk.New(s, desk.Options{Carrier: standin.Carrier{}})
	ana, err := d.AddUser(b.ctx, desk.NewUser{Login: "ana", Name: "Ana", Role: desk.Coordinator})
	if err != nil {
		return err
	}
	if _, _, err := d.Import(b.ctx, desk.Call{Key: desk.NewKey(), Actor: ana}, demo.Bulk(20_000)); err != nil {
		return err
	}
	var ids []int64
	if err := s.Pool.QueryRow(b.ctx, "SELECT array_agg(line_id ORDER BY line_id) FROM line_count WHERE open > 0").Scan(&ids); err != nil {
		return err
	}
	base, err := b.updates()
	if err != nil {
		return err
	}
	var next, done atomic.Int64
	var failed atomic.Pointer[error]
	begin := time.Now()
	var wg sync.WaitGroup
	for range clients {
		wg.Go(func() {
			for time.Since(begin) < time.Duration(b.seconds)*time.Second {
				id := ids[int(next.Add(7919))%len(ids)]
				call := desk.Call{Key: desk.NewKey(), Actor: ana}
				if _, err := d.Allocate(b.ctx, call, desk.Selection{Lines: []desk.LineQty{{Line: id, Qty: 1}}}); err != nil {
					if _, no := desk.AsRefusal(err); !no {
						failed.Store(&err)
						return
					}
					continue // a line that has nothing open any more
				}
				done.Add(1)
			}
		})
	}
	wg.Wait()
	if p := failed.Load(); p != nil {
		return *p
	}
	rate := float64(done.Load()) / time.Since(begin).Seconds()
	fmt.Printf("single-row updates, %d clients      %8.0f /s\n", clients, base)
	fmt.Printf("allocations committed, %d clients   %8.0f /s   %.2f of the updates (goal 0.25)\n", clients, rate, rate/base)
	diff, n, err := s.Audit(b.ctx)
	if err != nil {
		return err
	}
	if len(diff) > 0 {
		return fmt.Errorf("the audit finds %d differences after the bench, such as %s", len(diff), diff[0])
	}
	fmt.Printf("audit afterwards                    %8d counts, all right\n", n)
	return nil
}

// updates is how many single-row update transactions pgbench commits a second.
func (b *benching) updates() (float64, error) {
	dir, err := os.MkdirTemp("", "journeyman-pgbench")
	if err != nil {
		return 0, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	script := filepath.Join(dir, "update.sql")
	if err := os.WriteFile(script, []byte("\\set id random(1, 1000)\nUPDATE bench_row SET v = v + 1 WHERE id = :id;\n"), 0o600); err != nil {
		return 0, err
	}
	s, err := b.open("updates")
	if err != nil {
		return 0, err
	}
	defer s.Close()
	conn, err := s.Pool.Acquire(b.ctx)
	if err != nil {
		return 0, err
	}
	defer conn.Release()
	for _, q := range []string{"RESET ROLE", "CREATE TABLE bench_row (id integer PRIMARY KEY, v bigint NOT NULL)", "INSERT INTO bench_row SELECT g, 0 FROM generate_series(1, 1000) g"} {
		if _, err := conn.Exec(b.ctx, q); err != nil {
			return 0, err
		}
	}
	out, err := exec.CommandContext(b.ctx, filepath.Join(b.cluster.Bin(), "pgbench"), "-n", "-M", "prepared", "-c", strconv.Itoa(clients), "-j", "2",
		"-T", strconv.Itoa(b.seconds), "-f", script, b.cluster.URL("updates")).CombinedOutput()
	if err != nil {
		return 0, fmt.Errorf("pgbench: %w: %s", err, out)
	}
	m := regexp.MustCompile(`tps = ([0-9.]+) \(without`).FindSubmatch(out)
	if m == nil {
		return 0, fmt.Errorf("pgbench says nothing of its rate: %s", out)
	}
	return strconv.ParseFloat(string(m[1]), 64)
}

// pages times every page of the demo book at the server.
func (b *benching) pages() error {
	s, err := b.open("pages")
	if err != nil {
		return err
	}
	defer s.Close()
	var people []demo.Person
	for _, p := range api.DemoPeople() {
		people = append(people, demo.Person{Login: p.Login, Name: p.Name, Role: desk.Role(p.Role)})
	}
	err = demo.Run(b.ctx, func(clock func() time.Time) *desk.Desk {
		return desk.New(s, desk.Options{Now: clock, Carrier: standin.Carrier{Now: clock}})
	}, people, time.Now(), func(string) {})
	if err != nil {
		return err
	}
	quiet := slog.New(slog.DiscardHandler)
	srv := httptest.NewServer(api.New(api.Options{Desk: desk.New(s, desk.Options{}), Live: api.NewLive(s, quiet), Log: quiet, Demo: true}).Handler())
	defer srv.Close()
	jar, err := cookiejar.New(nil)
	if err != nil {
		return err
	}
	c := &http.Client{Jar: jar}
	res, err := c.Post(srv.URL+"/api/demo/sign-in", "application/json", strings.NewReader(`{"login":"ana"}`))
	if err != nil {
		return err
	}
	_ = res.Body.Close()
	fmt.Printf("\npages of the demo book, 40 times each   median     95th (goal under 100 ms)\n")
	for _, path := range []string{
		"strip", "orders", "orders?q=glaze", "orders?state=late&sort=wanted", "orders/SO-10700", "orders/SO-10700/trail", "open", "release",
		"pick-lists", "packing", "dock", "items", "items/GL-2040-1", "inbound", "customers", "search?q=celadon",
	} {
		var took []time.Duration
		for range 40 {
			begin := time.Now()
			res, err := c.Get(srv.URL + "/api/" + path)
			if err != nil {
				return err
			}
			_, err = io.Copy(io.Discard, res.Body)
			_ = res.Body.Close()
			if err != nil || res.StatusCode != http.StatusOK {
				return fmt.Errorf("/api/%s: %d %w", path, res.StatusCode, err)
			}
			took = append(took, time.Since(begin))
		}
		slices.Sort(took)
		fmt.Printf("  %-34s %7.1f ms %8.1f ms\n", path, ms(took[len(took)/2]), ms(took[len(took)*95/100]))
	}
	return nil
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// imports times an import of many order lines, checked and applied.
func (b *benching) imports() error {
	s, err := b.open("imports")
	if err != nil {
		return err
	}
	defer s.Close()
	d := desk.New(s, desk.Options{})
	ana, err := d.AddUser(b.ctx, desk.NewUser{Login: "ana", Name: "Ana", Role: desk.Coordinator})
	if err != nil {
		return err
	}
	files := demo.Bulk(b.lines)
	call := desk.Call{Key: desk.NewKey(), Actor: ana}
	begin := time.Now()
	if _, err := d.CheckImport(b.ctx, call, files); err != nil {
		return err
	}
	checked := time.Since(begin)
	begin = time.Now()
	if _, err := d.ApplyImport(b.ctx, desk.Call{Key: desk.NewKey(), Actor: ana}, call.Key); err != nil {
		return err
	}
	applied := time.Since(begin)
	begin = time.Now()
	if _, _, err := s.Audit(b.ctx); err != nil {
		return err
	}
	fmt.Printf("\nimport of %d order lines: checked in %.1f s, applied in %.1f s, audited in %.1f s\n", b.lines, checked.Seconds(), applied.Seconds(), time.Since(begin).Seconds())
	return nil
}
