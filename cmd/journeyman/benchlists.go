package main

import (
	"bytes"
	"fmt"
	"io"
	"net/http"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"journeyman/internal/rooms"
)

func replaceAll(text string, values map[string]int) string {
	for name, v := range values {
		text = strings.ReplaceAll(text, name, fmt.Sprint(v))
	}
	return text
}

// listPages are the lists and searches that pages ask for, each in every order that its page offers.
var listPages = func() []string {
	out := []string{"/api/strip"}
	for _, sort := range []string{"wanted", "number", "customer", "channel", "tier", "value", "margin"} {
		for _, down := range []string{"false", "true"} {
			out = append(out, "/api/orders?sort="+sort+"&down="+down, "/api/orders?state=open&sort="+sort+"&down="+down)
		}
	}
	return append(out,
		"/api/orders?page=600", "/api/orders?q=PO%20777", "/api/orders?q=Saltpan", "/api/orders?q=no.%2077",
		"/api/orders?station=allocated", "/api/orders?state=late", "/api/orders?state=held",
		"/api/orders?channel=web", "/api/orders?customer=C00077",
		"/api/open", "/api/open?page=20", "/api/open?q=Glaze", "/api/open?q=C00077",
		"/api/contested", "/api/contested?q=Glaze", "/api/release", "/api/release?q=Glaze",
		"/api/items", "/api/items?sort=short", "/api/items?sort=free", "/api/items?q=amber", "/api/items/X-00077",
		"/api/customers", "/api/customers?q=College", "/api/customers/C00077", "/api/inbound", "/api/inbound?q=77", "/api/promised",
		"/api/dock", "/api/packing", "/api/pick-lists",
		"/api/quotes", "/api/buy-requests", "/api/search?q=SO-1777", "/api/search?q=Saltpan", "/api/search?q=77",
		"/api/promise?sku=X-00077&qty=10", "/api/runs",
	)
}()

// lists measures every list and search at the server, on a book of a million order lines.
func (b *benching) lists() error {
	s, err := b.open("lists")
	if err != nil {
		return err
	}
	defer s.Close()
	conn, err := pgx.Connect(b.ctx, b.cluster.URL("lists"))
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(b.ctx) }()
	begin := time.Now()
	if err := fillBigBook(b.ctx, conn, b.most, b.most/10, 3000, 3000); err != nil {
		return err
	}
	fmt.Printf(
		"\nlists on %d order lines, %d of them open (goals: 50 ms at the 95th percentile, 60 kB); the book was there in %.0f s\n", b.most,
		b.most/10, time.Since(begin).Seconds(),
	)
	srv, c, err := serving(s, rooms.Open(s, rooms.Options{}), "ana")
	if err != nil {
		return err
	}
	defer srv.Close()
	slow := 0
	fmt.Println("  median   95th      kB")
	for _, page := range listPages {
		var took []time.Duration
		size := 0
		for range b.turns {
			begin := time.Now()
			res, err := c.Get(srv.URL + page)
			if err != nil {
				return err
			}
			var body bytes.Buffer
			_, err = io.Copy(&body, res.Body)
			_ = res.Body.Close()
			if err != nil || res.StatusCode != http.StatusOK {
				return fmt.Errorf("%s: %s %v %s", page, res.Status, err, body.String())
			}
			took, size = append(took, time.Since(begin)), body.Len()
		}
		slices.Sort(took)
		late := took[len(took)*95/100]
		mark := ""
		if late > 50*time.Millisecond || size > 60_000 {
			mark, slow = " <", slow+1
		}
		fmt.Printf("%8.1f %6.1f %7.1f  %s%s\n", ms(took[len(took)/2]), ms(late), float64(size)/1000, page, mark)
	}
	fmt.Printf("  %d of %d are beyond a goal\n", slow, len(listPages))
	if b.keep {
		fmt.Printf("  the database stays until Enter is pressed: %s\n", b.cluster.URL("lists"))
		_, _ = os.Stdin.Read(make([]byte, 1))
	}
	return nil
}
