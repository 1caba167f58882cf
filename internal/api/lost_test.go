package api_test

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/command"
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
			if code == http.StatusServiceUnavailable && strings.Contains(said, "outcome-unknown") &&
				!strings.Contains(said, "othing was changed") {
				unknown++
				continue
			}
			var out command.Outcome
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
	if err := b.store.Pool.QueryRow(context.Background(), `SELECT count(*) FROM sales_order
		WHERE wanted = '2099-06-01'`).Scan(&count); err != nil {
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
		{"GET", "/readyz", ""},
		{"GET", "/api/orders", ""},
		{"GET", "/api/strip", ""},
		{"POST", "/api/enter-order", `{"ask":{"customer":"SPC","lines":[{"sku":"GL-2040-1","qty":1}]}}`},
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

// Commands that wait for somebody, and many repeats of one, leave connections for pages and for health.
func TestPagesAndHealthDoNotWaitForCommandsThatDo(t *testing.T) {
	t.Parallel()
	b := besiege(t, dbtest.Store(t)).filled(t)
	ana := visit(t, b.Server, "ana")
	conn := dbtest.Owner(t, b.store)
	ctx := context.Background()
	tx, err := conn.Begin(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := tx.Exec(ctx, `SELECT 1 FROM stock_cell FOR UPDATE`); err != nil {
		t.Fatal(err)
	}
	key, body := uuid.NewString(), `{"ask":{"orders":[{"number":"SO-1001","seen":0}]}}`
	var wg sync.WaitGroup
	for i := range 48 {
		k := key
		if i%3 == 0 {
			k = uuid.NewString()
		}
		wg.Go(func() {
			if code, said := ana.send("POST", "/api/allocate", k, body); code != 200 && code != 409 && code != 503 {
				t.Error(code, said)
			}
		})
	}
	dbtest.AwaitLock(t, b.store)
	for _, path := range []string{"/readyz", "/api/orders", "/api/strip", "/api/me", "/readyz"} {
		if code, said := ana.get(path); code != 200 {
			t.Errorf("%s while commands wait: %d %s", path, code, said)
		}
	}
	if err := tx.Rollback(ctx); err != nil {
		t.Fatal(err)
	}
	wg.Wait()
	sound(t, b.store)
}

func (p *person) get(path string) (int, string) {
	p.t.Helper()
	res, err := p.c.Get(p.url + path)
	if err != nil {
		p.t.Fatal(err)
	}
	defer func() { _ = res.Body.Close() }()
	text, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(text)
}

// Who signed in, who was refused and whose role was changed is in the log, with login and address; passwords are not.
func TestTheLogTellsWhoSignedInAndWhoWasRefused(t *testing.T) {
	t.Parallel()
	b := besiege(t, dbtest.Store(t)).filled(t)
	nobody := visit(t, b.Server, "")
	nobody.send("POST", "/api/sign-in", "", `{"login":"tom","password":"my guess at it"}`)
	nobody.send("POST", "/api/sign-in", "", `{"login":"tom","password":"correct horse"}`)
	if code, said := visit(t, b.Server, "flo").send("POST", "/api/allocate", uuid.NewString(),
		`{"ask":{"orders":[{"number":"SO-1001","seen":0}]}}`); code != 403 {
		t.Error(code, said)
	}
	does(
		t, visit(t, b.Server, "max"), "/api/set-person", map[string]any{"login": "tom", "name": "Tom", "role": "floor", "active": true}, "",
	)
	b.log.mu.Lock()
	text := b.log.text.String()
	b.log.mu.Unlock()
	for _, want := range []string{
		`msg="sign-in refused" login=tom address=127.0.0.1`, `msg="signed in" login=tom address=127.0.0.1`,
		`msg=refused login=flo address=127.0.0.1`,
		`msg="person changed" login=tom role=floor`,
	} {
		if !strings.Contains(text, want) {
			t.Errorf("the log does not say %s", want)
		}
	}
	if strings.Contains(text, "my guess") || strings.Contains(text, "correct horse") {
		t.Error("the log tells a password")
	}
}
