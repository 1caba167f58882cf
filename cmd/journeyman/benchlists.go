package main

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"journeyman/internal/desk/command"
	"journeyman/internal/rooms"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
)

func replaceAll(text string, values map[string]int) string {
	for name, v := range values {
		text = strings.ReplaceAll(text, name, fmt.Sprint(v))
	}
	return text
}

// listPages are the lists and searches that pages ask for, each in every order that its page offers.
var listPages = func() []string {
	const added = "&sums=value&sums=open&sums=allocated"
	out := []string{"/api/strip", "/api/todo", "/api/todo?show=office"}
	for _, sort := range []string{"wanted", "number", "customer", "channel", "tier", "value", "margin"} {
		for _, down := range []string{"false", "true"} {
			out = append(out, "/api/orders?sort="+sort+"&down="+down, "/api/orders?state=open&sort="+sort+"&down="+down)
		}
	}
	return append(out,
		"/api/lists/orders/groups?by=customer"+added, "/api/lists/orders/groups?by=wanted"+added,
		"/api/lists/orders/groups?state=open&by=customer"+added, "/api/lists/orders/groups?state=open&by=channel"+added,
		"/api/lists/orders/groups?state=open&by=tier"+added, "/api/lists/orders/groups?q=Glaze&by=customer"+added,
		"/api/lists/open/groups?by=item&sums=open", "/api/lists/open/groups?by=customer&sums=open",
		"/api/lists/orders/sum?sums=value&sums=currency", "/api/lists/orders/sum?sums=value&sums=currency&state=open",
		"/api/lists/orders/sum?sums=value&sums=currency&q=Glaze", "/api/lists/open/sum",
		"/api/lists/open/sum?q=Glaze", "/api/lists/items/sum", "/api/lists/customers/sum",
		"/api/orders?only=value%3E%3D1000", "/api/orders?state=open&only=margin%3C%3D20&sort=value",
		"/api/orders?q=PO%20777", "/api/orders?q=Saltpan", "/api/orders?q=no.%2077",
		"/api/orders?q=77", "/api/orders?q=Glaze", "/api/orders?q=Glaze%20Saltpan", "/api/orders?q=nowhere",
		"/api/orders?station=allocated", "/api/orders?state=late", "/api/orders?state=held",
		"/api/orders?only=channel%3Dweb", "/api/orders?only=customer%3DC00077",
		"/api/open", "/api/open?q=Glaze", "/api/open?q=C00077", "/api/open?sort=customer", "/api/open?sort=open&down=true",
		"/api/open?sort=item", "/api/open?sort=ship_by",
		"/api/contested", "/api/contested?q=Glaze", "/api/release?until=2099-12-31", "/api/release?until=2099-12-31&q=Glaze",
		"/api/release?until=2099-12-31&sort=customer",
		"/api/release?until=2099-12-31&sort=order_open", "/api/release?state=not_due", "/api/releasable", "/api/releasable?until=2099-12-31",
		"/api/lists/release/sum?until=2099-12-31&sums=allocated", "/api/lists/release/groups?until=2099-12-31&by=customer&sums=allocated",
		"/api/lists/release/keys?until=2099-12-31&sums=allocated",
		"/api/items", "/api/items?sort=wanting&down=true", "/api/items?sort=free", "/api/items?q=amber", "/api/items/X-00077",
		"/api/customers", "/api/customers?q=College", "/api/customers?sort=value", "/api/customers/C00077",
		"/api/inbound", "/api/inbound?q=77", "/api/promised", "/api/promised?sort=customer", "/api/promised?sort=qty&down=true",
		"/api/promised?q=Glaze", "/api/lists/promises/sum", "/api/lists/promises/groups?by=item&sums=qty", "/api/unpromised",
		"/api/shipments", "/api/shipments?state=under%20way", "/api/shipments?state=delivered", "/api/shipments?state=all&q=C00077",
		"/api/lists/shipments/groups?state=under%20way&by=customer&sums=units", "/api/packing", "/api/packing?q=Glaze", "/api/pick-lists",
		"/api/pick-lists?state=done", "/api/pick-lists?state=done&q=C00077", "/api/papers", "/api/papers?state=all&sort=who",
		"/api/papers?state=all&q=PL-9", "/api/lists/papers/sum", "/api/journal", "/api/journal?state=all",
		"/api/journal?state=all&q=C00077",
		"/api/journal?state=all&only=item%3DX-00077", "/api/journal?state=all&only=list%3DPL-100777",
		"/api/journal?state=all&only=shipment%3DSH-100777", "/api/journal?state=all&only=bin%3DB-00077&only=warehouse%3DHL",
		"/api/journal?state=all&only=receipt%3DPO-77", "/api/lists/journal/sum", "/api/lists/journal/groups?by=who&sums=qty",
		"/api/quotes", "/api/quotes?state=expired", "/api/quotes?sort=value", "/api/lists/quotes/groups?by=state&sums=value",
		"/api/buy-requests", "/api/search?q=SO-1777", "/api/search?q=Saltpan", "/api/search?q=77",
		"/api/promise?sku=X-00077&qty=10", "/api/runs",
	)
}()

// lists measures every list and search at the server, on a book of a million order lines.
func (b *benching) lists() error {
	url, err := b.listBook()
	if err != nil {
		return err
	}
	chosen, err := regexp.Compile(b.match)
	if err != nil {
		return err
	}
	pages := slices.DeleteFunc(slices.Clone(listPages), func(page string) bool { return !chosen.MatchString(page) })
	if err := b.timeLists(url, pages); err != nil {
		return err
	}
	if b.plans != "" {
		if err := b.explain(url, pages); err != nil {
			return err
		}
	}
	if b.on == "" && !b.keep {
		conn, err := pgx.Connect(b.ctx, url)
		if err != nil {
			return err
		}
		err = allocateAll(b.ctx, conn)
		_ = conn.Close(b.ctx)
		if err != nil {
			return err
		}
		fmt.Println("the same with all of them allocated")
		if err := b.timeLists(url, pages); err != nil {
			return err
		}
		if err := b.releaseMany(url); err != nil {
			return err
		}
	}
	if b.keep {
		fmt.Printf("  the database stays until Enter is pressed: %s\n", url)
		_, _ = os.Stdin.Read(make([]byte, 1))
	}
	return nil
}

// listBook is the address of a database with a big book.
func (b *benching) listBook() (string, error) {
	if b.on != "" {
		return b.on, nil
	}
	s, err := b.open("lists")
	if err != nil {
		return "", err
	}
	s.Close()
	url := b.cluster.URL("lists")
	conn, err := pgx.Connect(b.ctx, url)
	if err != nil {
		return "", err
	}
	defer func() { _ = conn.Close(b.ctx) }()
	begin := time.Now()
	if err := fillBigBook(b.ctx, conn, b.most, b.most/10, 3000, 3000); err != nil {
		return "", err
	}
	fmt.Printf("\nthe book for the lists was there in %.0f s\n", time.Since(begin).Seconds())
	return url, nil
}

// listServer serves the database at url to a signed-in client.
func (b *benching) listServer(url string) (*store.Store, *httptest.Server, *http.Client, error) {
	server, err := postgres.ServerURL(url)
	if err != nil {
		return nil, nil, nil, err
	}
	s, err := store.Open(b.ctx, server)
	if err != nil {
		return nil, nil, nil, err
	}
	srv, c, err := serving(s, rooms.Open(s, rooms.Options{}), "ana")
	if err != nil {
		s.Close()
	}
	return s, srv, c, err
}

func (b *benching) timeLists(url string, pages []string) error {
	s, srv, c, err := b.listServer(url)
	if err != nil {
		return err
	}
	defer s.Close()
	defer srv.Close()
	fmt.Printf(
		"lists on %d order lines, %d of them open (goals at the 95th percentile: 50 ms, in groups 300 ms; 60 kB)\n  median   95th      kB\n",
		b.most, b.most/10,
	)
	if _, err := readPage(c, srv.URL+"/api/contested"); err != nil { // which a server has worked out when it has started
		return err
	}
	slow := 0
	for _, page := range pages {
		var took []time.Duration
		size := 0
		for range b.turns {
			begin := time.Now()
			body, err := readPage(c, srv.URL+page)
			if err != nil {
				return err
			}
			took, size = append(took, time.Since(begin)), len(body)
		}
		slices.Sort(took)
		late := took[len(took)*95/100]
		mark := ""
		goal := 50 * time.Millisecond
		if strings.Contains(page, "/groups?") {
			goal = 300 * time.Millisecond
		}
		if late > goal || size > 60_000 {
			mark, slow = " <", slow+1
		}
		fmt.Printf("%8.1f %6.1f %7.1f  %s%s\n", ms(took[len(took)/2]), ms(late), float64(size)/1000, page, mark)
	}
	fmt.Printf("  %d of %d are beyond a goal\n", slow, len(pages))
	return nil
}

// releaseMany times what a release takes: to rehearse one, to choose lines for one in one step, and to do it, onto lists of eight orders,
// which are printed.
func (b *benching) releaseMany(url string) error {
	s, srv, c, err := b.listServer(url)
	if err != nil {
		return err
	}
	defer s.Close()
	defer srv.Close()
	var keys struct {
		Keys []string `json:"keys"`
	}
	body, err := readPage(c, srv.URL+"/api/lists/release/keys?until=2099-12-31")
	if err == nil {
		err = json.Unmarshal(body, &keys)
	}
	if err != nil {
		return err
	}
	lines := func(n int) string {
		var out []string
		for _, k := range keys.Keys[:min(n, len(keys.Keys))] {
			out = append(out, fmt.Sprintf(`{"line":%s,"qty":0,"seen":0}`, k))
		}
		return `"lines":[` + strings.Join(out, ",") + `]`
	}
	const wave, due = `"wave":{"most_orders":8}`, `"until":"2099-12-31"`
	for _, x := range []struct{ what, path, body string }{
		{"the tray of 40 lines", "rehearse-release", "{" + lines(40) + "," + wave + "}"},
		{"the tray of 5,000 lines", "rehearse-release", "{" + lines(5000) + "," + wave + "}"},
		{"choosing 100 lines", "choose-quickly", "{" + due + `,"rule":"lines","most":100,` + wave + "}"},
		{"choosing orders that are completed", "choose-quickly", "{" + due + `,"rule":"complete",` + wave + "}"},
		{"choosing eight hours of picking", "choose-quickly", "{" + due + `,"rule":"time","most":480,` + wave + "}"},
		{"releasing 1,000 lines", "release", `{"ask":{"print":true,` + lines(1000) + "," + wave + "}}"},
		{"releasing 10,000 lines", "release-due", `{"ask":{"print":true,` + due + "," + wave + "}}"},
		{"releasing 10,000 lines, a list for each order", "release-due", `{"ask":{` + due + `,"wave":{"together":"order"}}}`},
	} {
		took, err := b.post(c, srv.URL+"/api/"+x.path, x.body)
		if err != nil {
			return err
		}
		fmt.Printf("  %s takes %.2f s\n", x.what, took.Seconds())
	}
	begin := time.Now()
	if err := rooms.Open(s, rooms.Options{}).Floor.PutAll(b.ctx); err != nil {
		return err
	}
	fmt.Printf("  drawing what was printed takes %.2f s\n", time.Since(begin).Seconds())
	return nil
}

// post sends a question or a command and returns how long the answer took.
func (b *benching) post(c *http.Client, url, body string) (time.Duration, error) {
	req, err := http.NewRequestWithContext(b.ctx, http.MethodPost, url, strings.NewReader(body))
	if err != nil {
		return 0, err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Idempotency-Key", command.NewKey())
	begin := time.Now()
	res, err := c.Do(req)
	if err != nil {
		return 0, err
	}
	defer func() { _ = res.Body.Close() }()
	answer, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s: %s %s", url, res.Status, answer)
	}
	return time.Since(begin), err
}

func readPage(c *http.Client, url string) ([]byte, error) {
	res, err := c.Get(url)
	if err != nil {
		return nil, err
	}
	defer func() { _ = res.Body.Close() }()
	body, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s: %s %s", url, res.Status, body)
	}
	return body, err
}
