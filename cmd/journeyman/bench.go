package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maps"
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

	"github.com/jackc/pgx/v5"
	"github.com/spf13/cobra"

	"journeyman/internal/api"
	"journeyman/internal/cluster"
	"journeyman/internal/demo"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
)

// benching is a throw-away server that waits for the disk as a real one does.
type benching struct {
	ctx     context.Context
	cluster *cluster.Cluster
	seconds int
	lines   int
	turns   int
	keep    bool
	on      string // the database of the lists, if it is there already
	match   string // which lists are measured
	plans   string // where their plans are written
	book    int
	most    int
	parts   []string
}

// benchParts are what is measured, in order.
var benchParts = []string{"computation", "allocations", "pages", "imports", "large", "lists", "load"}

func benchCommand(cfg *config) *cobra.Command {
	b := &benching{}
	cmd := &cobra.Command{
		Use:   "bench",
		Short: "Measure on a throw-away private database: computation, allocations, pages, imports",
		RunE: func(cmd *cobra.Command, _ []string) error {
			b.ctx, b.on = cmd.Context(), cfg.Database
			if b.on != "" {
				return b.lists()
			}
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
			parts := map[string]func() error{
				"computation": b.computation, "allocations": b.allocations, "pages": b.pages, "imports": b.imports,
				"large": b.large, "lists": b.lists, "load": b.load, "screens": b.screens,
			}
			for _, name := range b.parts {
				part, known := parts[name]
				if !known {
					return fmt.Errorf("there is nothing to measure called %q: choose of %s", name, strings.Join(slices.Sorted(maps.Keys(parts)), ", "))
				}
				if err := part(); err != nil {
					return err
				}
			}
			return nil
		},
	}
	cmd.Flags().IntVar(&b.seconds, "seconds", 5, "how many turns of a second each rate is measured")
	cmd.Flags().IntVar(&b.book, "book", 1_000_000, "open lines of the largest book that is computed with")
	cmd.Flags().StringSliceVar(&b.parts, "only", benchParts, "what is measured; imports measures typing, too")
	cmd.Flags().IntVar(&b.turns, "turns", 20, "how often each list is asked for")
	cmd.Flags().BoolVar(
		&b.keep, "keep", false, "let the database of the lists stay until Enter is pressed; --database measures on it again",
	)
	cmd.Flags().StringVar(&b.match, "match", "", "measure only lists whose address has this in it, as a regular expression")
	cmd.Flags().StringVar(&b.plans, "plans", "", "directory into which the plans of the lists are written, as the database explains them")
	cmd.Flags().IntVar(&b.lines, "lines", 100_000, "order lines of the import")
	cmd.Flags().IntVar(&b.most, "large", 1_000_000, "order lines of the large import, of which the memory is measured")
	return cmd
}

func (b *benching) open(name string) (*store.Store, error) {
	url := b.cluster.URL(name)
	if err := postgres.EnsureDatabase(b.ctx, url); err != nil {
		return nil, err
	}
	if _, err := store.Migrate(b.ctx, url); err != nil {
		return nil, err
	}
	server, err := postgres.ServerURL(url)
	if err != nil {
		return nil, err
	}
	return store.Open(b.ctx, server)
}

// office is a desk with a new database and a coordinator. Whoever asks for it closes the store.
func (b *benching) office(name string) (*store.Store, *rooms.Rooms, command.Actor, error) {
	s, err := b.open(name)
	if err != nil {
		return nil, nil, command.Actor{}, err
	}
	d := rooms.Open(s, rooms.Options{})
	ana, err := d.Admin.AddUser(b.ctx, admin.NewUser{Login: "ana", Name: "Ana", Role: command.Coordinator})
	if err != nil {
		s.Close()
	}
	return s, d, ana, err
}

// asOwner runs SQL with the rights of the owner of the store's database.
func (b *benching) asOwner(s *store.Store, queries ...string) error {
	conn, err := pgx.Connect(b.ctx, b.cluster.URL(s.Pool.Config().ConnConfig.Database))
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(b.ctx) }()
	for _, q := range queries {
		if _, err := conn.Exec(b.ctx, q); err != nil {
			return err
		}
	}
	return nil
}

// clients is how many allocate at once; benchLines is how many lines they have.
const (
	clients    = 8
	benchLines = 60_000
)

// allocations compares commands with the cheapest thing a transaction can do. The three
// rates are taken in turns, since a machine is not equally fast at all times.
func (b *benching) allocations() error {
	s, err := b.open("allocations")
	if err != nil {
		return err
	}
	defer s.Close()
	d := rooms.Open(s, rooms.Options{Carrier: standin.Carrier{}})
	ana, err := d.Admin.AddUser(b.ctx, admin.NewUser{Login: "ana", Name: "Ana", Role: command.Coordinator})
	if err != nil {
		return err
	}
	if _, _, err := d.Importing.Import(b.ctx, command.Call{Key: command.NewKey(), Actor: ana}, demo.Bulk(benchLines)); err != nil {
		return err
	}
	var ids []int64
	if err := s.Pool.QueryRow(b.ctx, "SELECT array_agg(line_id ORDER BY line_id) FROM line_count WHERE open > 0").Scan(&ids); err != nil {
		return err
	}
	script, err := b.benchRows(s)
	if err != nil {
		return err
	}
	defer func() { _ = os.Remove(script) }()
	var next, taken atomic.Int64
	ask := func(sel command.Selection) (int64, error) {
		out, err := d.Allocation.Allocate(b.ctx, command.Call{Key: command.NewKey(), Actor: ana}, sel)
		if _, no := command.AsRefusal(err); no {
			return 0, nil // nothing is open there any more
		}
		return int64(out.Lines), err
	}
	line := func() (int64, error) {
		return ask(command.Selection{Lines: []command.LineQty{{Line: ids[int(next.Add(7919))%len(ids)], Qty: 1}}})
	}
	orders := func(n int) func() (int64, error) {
		return func() (int64, error) {
			first := int(taken.Add(int64(n))) - n
			var sel command.Selection
			for i := range n {
				sel.Orders = append(sel.Orders, command.OrderSeen{Number: fmt.Sprintf("SO-%d", (first+i)%(benchLines/3))})
			}
			return ask(sel)
		}
	}
	update := func() (int64, error) {
		return 1, pgx.BeginFunc(b.ctx, s.Pool, func(tx pgx.Tx) error {
			_, err := tx.Exec(b.ctx, "UPDATE bench_row SET v = v + 1 WHERE id = $1", 1+next.Add(1)%1000)
			return err
		})
	}
	measures := []struct {
		what  string
		rate  func() (float64, error)
		rates []float64
	}{
		{what: "single-row updates, pgbench -M prepared", rate: func() (float64, error) { return b.pgbench(script) }},
		{what: "single-row update transactions, same client", rate: func() (float64, error) { return b.rate(update) }},
		{what: "allocations, one line a command", rate: func() (float64, error) { return b.rate(line) }},
		{what: "allocations, an order of three lines a command", rate: func() (float64, error) { return b.rate(orders(1)) }},
		{what: "allocations, twenty orders a command", rate: func() (float64, error) { return b.rate(orders(20)) }},
	}
	for range b.seconds {
		for i := range measures {
			r, err := measures[i].rate()
			if err != nil {
				return err
			}
			measures[i].rates = append(measures[i].rates, r)
		}
	}
	fmt.Printf("%d clients, medians of %d turns of a second each%*s\n", clients, b.seconds, 31, "of pgbench  of the client")
	bare, same := median(measures[0].rates), median(measures[1].rates)
	for _, m := range measures {
		r := median(m.rates)
		fmt.Printf("  %-48s %8.0f /s %8.2f %8.2f\n", m.what, r, r/bare, r/same)
	}
	return b.auditAfter(s)
}

// auditAfter fails if the counts are not what the journal adds up to.
func (b *benching) auditAfter(s *store.Store) error {
	diff, n, err := s.Audit(b.ctx)
	if err != nil {
		return err
	}
	if len(diff) > 0 {
		return fmt.Errorf("the audit finds %d differences after the bench, such as %s", len(diff), diff[0])
	}
	fmt.Printf("  audit afterwards: %d counts, all right\n", n)
	return nil
}

func median(of []float64) float64 {
	of = slices.Sorted(slices.Values(of))
	return of[len(of)/2]
}

// rate is how often all clients together do something in a second.
func (b *benching) rate(do func() (int64, error)) (float64, error) {
	var done atomic.Int64
	var failed atomic.Pointer[error]
	begin := time.Now()
	var wg sync.WaitGroup
	for range clients {
		wg.Go(func() {
			for time.Since(begin) < time.Second {
				n, err := do()
				if err != nil {
					failed.Store(&err)
					return
				}
				done.Add(n)
			}
		})
	}
	wg.Wait()
	if p := failed.Load(); p != nil {
		return 0, *p
	}
	return float64(done.Load()) / time.Since(begin).Seconds(), nil
}

// benchRows makes the rows to be updated and writes pgbench's script for it.
func (b *benching) benchRows(s *store.Store) (script string, err error) {
	if err := b.asOwner(s, "CREATE TABLE bench_row (id integer PRIMARY KEY, v bigint NOT NULL)",
		"INSERT INTO bench_row SELECT g, 0 FROM generate_series(1, 1000) g",
		"GRANT SELECT, UPDATE ON bench_row TO journeyman_app"); err != nil {
		return "", err
	}
	f, err := os.CreateTemp("", "journeyman-pgbench-*.sql")
	if err != nil {
		return "", err
	}
	_, err = f.WriteString("\\set id random(1, 1000)\nUPDATE bench_row SET v = v + 1 WHERE id = :id;\n")
	return f.Name(), errors.Join(err, f.Close())
}

// pgbench is how many single-row updates it commits a second.
func (b *benching) pgbench(script string) (float64, error) {
	out, err := exec.CommandContext(b.ctx, filepath.Join(
		b.cluster.Bin(), "pgbench",
	), "-n", "-M", "prepared", "-c", strconv.Itoa(clients), "-j", "2",
		"-T", "2", "-f", script, b.cluster.URL("allocations")).CombinedOutput()
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
		people = append(people, demo.Person{Login: p.Login, Name: p.Name, Role: command.Role(p.Role)})
	}
	err = demo.Run(b.ctx, func(clock func() time.Time) *rooms.Rooms {
		return rooms.Open(s, rooms.Options{Now: clock, Carrier: standin.Carrier{Now: clock}})
	}, people, time.Now(), func(string) {})
	if err != nil {
		return err
	}
	srv, c, err := serving(s, rooms.Open(s, rooms.Options{}), "ana")
	if err != nil {
		return err
	}
	defer srv.Close()
	fmt.Printf("\npages of the demo book, 40 times each   median     95th (goal under 100 ms)\n")
	for _, path := range []string{
		"strip", "orders", "orders?q=glaze", "orders?state=late&sort=wanted", "orders/SO-10700", "orders/SO-10700/trail", "open", "release",
		"contested", "policies", "customers/WEB/standing",
		"promise?sku=CB-110&qty=144", "promised", "pick-lists", "packing", "dock", "items", "items/GL-2040-1", "inbound", "customers",
		"quotes", "quotes/Q-3002", "buy-requests", "settings", "search?q=celadon", "find-items?q=celadon&warehouse=HL",
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

// serving is a server of the rooms on loopback, and a browser in which somebody of that login is signed in. Whoever asks for it closes
// the server.
func serving(s *store.Store, d *rooms.Rooms, login string) (*httptest.Server, *http.Client, error) {
	quiet := slog.New(slog.DiscardHandler)
	srv := httptest.NewServer(api.New(api.Options{Desk: d, Live: api.NewLive(s, quiet), Log: quiet, Demo: true}).Handler())
	jar, err := cookiejar.New(nil)
	if err != nil {
		srv.Close()
		return nil, nil, err
	}
	c := &http.Client{Jar: jar}
	if err := answered(
		c.Post(srv.URL+"/api/demo/sign-in", "application/json", strings.NewReader(fmt.Sprintf(`{"login":%q}`, login))),
	); err != nil {
		srv.Close()
		return nil, nil, err
	}
	return srv, c, nil
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// imports times an import of many order lines, checked and applied.
func (b *benching) imports() error {
	s, d, ana, err := b.office("imports")
	if err != nil {
		return err
	}
	defer s.Close()
	files := demo.Bulk(b.lines)
	call := command.Call{Key: command.NewKey(), Actor: ana}
	begin := time.Now()
	if _, err := d.Importing.CheckImport(b.ctx, call, files); err != nil {
		return err
	}
	checked := time.Since(begin)
	begin = time.Now()
	if _, err := d.Importing.ApplyImport(b.ctx, command.Call{Key: command.NewKey(), Actor: ana}, call.Key, false); err != nil {
		return err
	}
	applied := time.Since(begin)
	begin = time.Now()
	if _, _, err := s.Audit(b.ctx); err != nil {
		return err
	}
	fmt.Printf(
		"\nimport of %d order lines: checked in %.1f s, applied in %.1f s, audited in %.1f s\n", b.lines, checked.Seconds(),
		applied.Seconds(), time.Since(begin).Seconds(),
	)
	if err := b.typing(s); err != nil {
		return err
	}
	return b.runs(s, ana)
}
