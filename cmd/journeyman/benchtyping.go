package main

import (
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/rooms"
	"journeyman/internal/store"
)

// typings is how often each question is asked.
const typings = 300

// typed is a question that is asked while somebody types, and how long its answers took.
type typed struct {
	what string
	ask  func() func() error
	took []time.Duration
}

// typing times what is asked while somebody types, on a book of many open lines of which
// every other one is promised, with four receipts to come of each item.
func (b *benching) typing(s *store.Store) error {
	if err := b.asOwner(s,
		`INSERT INTO inbound (ref, item_id, warehouse_id, due, qty)
			SELECT 'PO-' || i.id || '-' || n, i.id, w.id, current_date + 3 * n, 200 FROM item i, warehouse w, generate_series(1, 4) n`,
		`INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
			SELECT (SELECT max(id) FROM command), l.id, l.order_id, l.item_id, '[]',
				jsonb_build_array(jsonb_build_object('warehouse', l.warehouse_id, 'day', current_date + (l.id % 20)::int, 'qty', n.open)),
				0, n.open, 'promised'
			FROM order_line l JOIN line_count n ON n.line_id = l.id WHERE l.id % 2 = 0 AND n.open > 0`,
		"ANALYZE"); err != nil {
		return err
	}
	d := rooms.Open(s, rooms.Options{})
	if _, err := d.Admin.AddUser(b.ctx, admin.NewUser{Login: "tom", Name: "Tom", Role: command.Sales}); err != nil {
		return err
	}
	srv, c, err := serving(s, d, "tom")
	if err != nil {
		return err
	}
	defer srv.Close()
	r := rand.New(rand.NewPCG(1, 1))
	sku := func() string { return fmt.Sprintf("X-%d", r.IntN(1000)) }
	draft := func(lines int) string {
		var said []string
		for range lines {
			said = append(said, fmt.Sprintf(`{"sku":%q,"qty":%d}`, sku(), 1+r.IntN(900)))
		}
		return `{"customer":"C","lines":[` + strings.Join(said, ",") + `]}`
	}
	get := func(path string) func() error {
		return func() error { return answered(c.Get(srv.URL + path)) }
	}
	post := func(body string) func() error {
		return func() error {
			return answered(c.Post(srv.URL+"/api/draft", "application/json", strings.NewReader(body)))
		}
	}
	bare := func() error {
		var one int
		return s.Pool.QueryRow(b.ctx, "SELECT 1").Scan(&one)
	}
	questions := []typed{
		{what: "SELECT 1, a round trip to the database", ask: func() func() error { return bare }},
		{what: "an item by part of its number", ask: func() func() error {
			return get("/api/find-items?warehouse=HL&q=" + url.QueryEscape("thing "+sku()[2:]))
		}},
		{what: "availability of one item", ask: func() func() error { return post(draft(1)) }},
		{what: "availability of five lines", ask: func() func() error { return post(draft(5)) }},
		{what: "availability of twenty lines", ask: func() func() error { return post(draft(20)) }},
		{what: "the promise page", ask: func() func() error { return get("/api/promise?qty=100&sku=" + sku()) }},
	}
	return b.askInTurns(questions)
}

// askInTurns asks each question many times, in turns, since a machine is not equally fast at all times.
func (b *benching) askInTurns(questions []typed) error {
	for range typings {
		for i := range questions {
			ask := questions[i].ask()
			begin := time.Now()
			if err := ask(); err != nil {
				return fmt.Errorf("%s: %w", questions[i].what, err)
			}
			questions[i].took = append(questions[i].took, time.Since(begin))
		}
	}
	fmt.Printf(
		"\nwhile typing, at the server, %d open lines, %d times each (goal: 95th under 50 ms)\n%*s\n", b.lines, typings, 82,
		"median     95th  in round trips",
	)
	for i := range questions {
		slices.Sort(questions[i].took)
	}
	half := func(of []time.Duration) time.Duration { return of[len(of)/2] }
	for _, q := range questions {
		fmt.Printf(
			"  %-42s %7.1f ms %8.1f ms %10.0f\n", q.what, ms(half(q.took)), ms(q.took[len(q.took)*95/100]),
			float64(half(q.took))/float64(half(questions[0].took)),
		)
	}
	return nil
}

func answered(res *http.Response, err error) error {
	if err != nil {
		return err
	}
	body, err := io.ReadAll(res.Body)
	_ = res.Body.Close()
	if err == nil && res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%d %s", res.StatusCode, body)
	}
	return err
}
