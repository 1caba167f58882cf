package api_test

import (
	"context"
	"encoding/json"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk"
)

// The commit happens, and its answer never comes: what was done is found out by its key, and is done once.
func TestAttackCommitsWhoseAnswersAreLost(t *testing.T) {
	t.Parallel()
	url, wire := dbtest.Through(t, dbtest.URL(t))
	b := besiege(t, dbtest.Open(t, url)).filled(t)
	tom := visit(t, b.Server, "tom")
	const orders = 40
	made, unknown := map[string]bool{}, 0
	for range orders {
		key, body := uuid.NewString(), `{"ask":{"customer":"SPC","wanted":"2099-06-01","lines":[{"sku":"GL-2040-1","qty":1,"how":"none"}]}}`
		wire.LoseCommits(1)
		for {
			code, said := tom.send("POST", "/api/enter-order", key, body)
			if code == http.StatusServiceUnavailable && strings.Contains(said, "outcome-unknown") && !strings.Contains(said, "othing was changed") {
				unknown++
				continue
			}
			var out desk.Outcome
			if code != 200 || json.Unmarshal([]byte(said), &out) != nil {
				t.Fatal(code, said)
			}
			made[out.Documents[0].Number] = true
			break
		}
		if wire.Lost() > 0 {
			t.Error("no commit was lost")
		}
		wire.LoseCommits(0)
	}
	count := 0
	if err := b.store.Pool.QueryRow(context.Background(), `SELECT count(*) FROM sales_order WHERE wanted = '2099-06-01'`).Scan(&count); err != nil {
		t.Fatal(err)
	}
	if len(made) != orders || count != orders {
		t.Errorf("%d orders were entered: %d are told, %d are there", orders, len(made), count)
	}
	t.Logf("%d of %d were not known at first", unknown, orders)
	sound(t, b.store)
}

// A database that says nothing is told of, soon, and all is well when it speaks again.
func TestADatabaseThatDoesNotAnswerIsToldOfSoon(t *testing.T) {
	t.Parallel()
	url, wire := dbtest.Through(t, dbtest.URL(t))
	b := besiege(t, dbtest.Open(t, url)).filled(t)
	tom := visit(t, b.Server, "tom")
	ask := func(method, path, body string) (int, time.Duration) {
		began := time.Now()
		req, _ := http.NewRequest(method, b.URL+path, strings.NewReader(body))
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Idempotency-Key", uuid.NewString())
		res, err := tom.c.Do(req)
		if err != nil {
			t.Error(path, err)
			return 0, 0
		}
		_ = res.Body.Close()
		return res.StatusCode, time.Since(began)
	}
	wire.Freeze()
	var wg sync.WaitGroup
	for _, c := range [][3]string{
		{"GET", "/readyz", ""}, {"GET", "/api/orders", ""}, {"GET", "/api/strip", ""}, {"POST", "/api/enter-order", `{"ask":{"customer":"SPC","lines":[{"sku":"GL-2040-1","qty":1}]}}`},
	} {
		wg.Go(func() {
			code, took := ask(c[0], c[1], c[2])
			if code != http.StatusServiceUnavailable || took > 30*time.Second {
				t.Errorf("%s: %d after %s", c[1], code, took)
			}
			t.Logf("%s: %d after %s", c[1], code, took)
		})
	}
	wg.Wait()
	wire.Thaw()
	for range 100 {
		if code, _ := ask("GET", "/api/orders", ""); code == 200 {
			return
		}
		time.Sleep(100 * time.Millisecond)
	}
	t.Error("the database answers again, and the server does not")
}
