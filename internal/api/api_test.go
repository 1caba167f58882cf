package api_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"journeyman/internal/api"
	"journeyman/internal/dbtest"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/query"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
	"journeyman/internal/store"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// start serves a fresh database on loopback.
func start(t *testing.T) *httptest.Server {
	t.Helper()
	return startOn(t, dbtest.Store(t))
}

func startOn(t *testing.T, s *store.Store) *httptest.Server {
	t.Helper()
	log := slog.New(slog.NewTextHandler(io.Discard, nil))
	live := api.NewLive(s, log)
	ctx, stop := context.WithCancel(context.Background())
	t.Cleanup(stop)
	go live.Run(ctx)
	d := rooms.Open(s, rooms.Options{WeakHash: true, Carrier: standin.Carrier{}, Tell: live.Tell, Log: log})
	for _, p := range api.DemoPeople() {
		if _, err := d.Admin.AddUser(
			ctx, admin.NewUser{Login: p.Login, Name: p.Name, Role: command.Role(p.Role), Password: "correct horse"},
		); err != nil {
			t.Fatal(err)
		}
	}
	a := api.New(api.Options{Desk: d, Live: live, Log: log, Demo: true})
	srv := httptest.NewServer(a.Handler())
	t.Cleanup(func() { live.End(); srv.Close() })
	return srv
}

// person is a browser with its cookies.
type person struct {
	t   *testing.T
	url string
	c   *http.Client
}

func visit(t *testing.T, srv *httptest.Server, login string) *person {
	t.Helper()
	p := &person{t, srv.URL, &http.Client{Jar: newJar(t)}}
	if login != "" {
		p.signIn(login)
	}
	return p
}

func newJar(t *testing.T) http.CookieJar {
	t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return jar
}

func (p *person) signIn(login string) {
	p.t.Helper()
	if code, body := p.send("POST", "/api/demo/sign-in", "", `{"login":"`+login+`"}`); code != 200 {
		p.t.Fatal(code, body)
	}
}

func (p *person) send(method, path, key, body string) (int, string) {
	p.t.Helper()
	req, err := http.NewRequest(method, p.url+path, strings.NewReader(body))
	if err != nil {
		p.t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	if key != "" {
		req.Header.Set("Idempotency-Key", key)
	}
	res, err := p.c.Do(req)
	if err != nil {
		p.t.Fatal(err)
	}
	defer func() { _ = res.Body.Close() }()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		p.t.Fatal(err)
	}
	if res.StatusCode >= 400 && !strings.HasPrefix(res.Header.Get("Content-Type"), "application/problem+json") {
		p.t.Errorf("%s %s: %d is no problem detail: %s", method, path, res.StatusCode, res.Header.Get("Content-Type"))
	}
	return res.StatusCode, string(b)
}

func (p *person) files(key string, files map[string]string) (int, string) {
	p.t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	for name, text := range files {
		part, err := w.CreateFormFile("files", name)
		if err != nil {
			p.t.Fatal(err)
		}
		_, _ = part.Write([]byte(text))
	}
	_ = w.Close()
	req, err := http.NewRequest("POST", p.url+"/api/imports", &b)
	if err != nil {
		p.t.Fatal(err)
	}
	req.Header.Set("Content-Type", w.FormDataContentType())
	req.Header.Set("Idempotency-Key", key)
	res, err := p.c.Do(req)
	if err != nil {
		p.t.Fatal(err)
	}
	defer func() { _ = res.Body.Close() }()
	out, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(out)
}

var small = map[string]string{
	"items.csv":     "sku,name,price,cost\nX,A thing,2.00,1.00\n",
	"stock.csv":     "warehouse,sku,bin,on_hand\nHL,X,A-1-1,10\n",
	"customers.csv": "customer,name,ship_to,warehouse\nC,A customer,MAIN,HL\n",
	"orders.csv":    "order,customer,wanted,line,sku,qty\nSO-1,C,2027-03-01,1,X,15\n",
}

func (p *person) importSmall() {
	p.t.Helper()
	key := uuid.NewString()
	if code, body := p.files(key, small); code != 200 || !strings.Contains(body, `"faulty":0`) {
		p.t.Fatal(code, body)
	}
	if code, body := p.send("POST", "/api/imports/apply", uuid.NewString(), `{"ask":{"import":"`+key+`"}}`); code != 200 {
		p.t.Fatal(code, body)
	}
}

func TestNobodySeesAnythingWithoutSigningIn(t *testing.T) {
	t.Parallel()
	srv := start(t)
	p := visit(t, srv, "")
	var doc struct{ Paths map[string]map[string]any }
	if err := json.Unmarshal(api.OpenAPI(), &doc); err != nil {
		t.Fatal(err)
	}
	open := map[string]bool{
		"/api/sign-in": true, "/api/demo/sign-in": true, "/api/demo/people": true, "/api/me": true, "/api/sign-out": true,
		"/api/imports": true,
	}
	tried := 0
	for path, methods := range doc.Paths {
		if open[path] {
			continue
		}
		path = strings.NewReplacer("{number}", "X", "{key}", uuid.NewString()).Replace(path)
		for method := range methods {
			tried++
			bodies := map[string]string{"/api/imports/apply": `{"ask":{"import":"` + uuid.NewString() + `"}}`}
			body := bodies[path]
			if body == "" && method == "post" {
				body = anyBody(path)
			}
			if code, got := p.send(strings.ToUpper(method), path, uuid.NewString(), body); code != 401 {
				t.Errorf("%s %s answers %d: %s", method, path, code, got)
			}
		}
	}
	if tried < 25 {
		t.Errorf("only %d were tried", tried)
	}
	if code, _ := p.files(uuid.NewString(), small); code != 401 {
		t.Errorf("an import answers %d", code)
	}
	if code, _ := p.send("GET", "/api/live", "", ""); code != 401 {
		t.Errorf("the stream answers %d", code)
	}
}

// anyBody is a body of the right form for a command.
func anyBody(path string) string {
	switch strings.TrimPrefix(path, "/api/") {
	case "recall":
		return `{"ask":[{"task":1,"seen":1}]}`
	case "pick":
		return `{"ask":[{"task":1,"qty":1,"seen":1}]}`
	case "dispatch", "deliver":
		return `{"ask":[{"number":"X","seen":1}]}`
	case "pack":
		return `{"ask":{"order":"X","warehouse":"HL","packages":[{"kind":"carton","weight_g":1,"contents":[{"line":1,"qty":1}]}]}}`
	case "unpack":
		return `{"ask":"X"}`
	case "receive":
		return `{"ask":{"inbound":1,"qty":1,"seen":1}}`
	case "hold", "lift":
		return `{"ask":{"order":"X","kind":"credit"}}`
	case "undo":
		return `{"ask":{"command":1}}`
	}
	return `{"ask":{"orders":[{"number":"X","seen":1}]}}`
}

func TestSigningInAndOut(t *testing.T) {
	t.Parallel()
	srv := start(t)
	p := visit(t, srv, "")
	if code, body := p.send("POST", "/api/sign-in", "", `{"login":"ana","password":"wrong"}`); code != 403 ||
		!strings.Contains(body, "do not belong together") {
		t.Errorf("a wrong password: %d %s", code, body)
	}
	if code, body := p.send("POST", "/api/sign-in", "", `{"login":"Ana","password":"correct horse"}`); code != 200 ||
		!strings.Contains(body, "coordinator") {
		t.Errorf("%d %s", code, body)
	}
	if code, _ := p.send("GET", "/api/strip", "", ""); code != 200 {
		t.Errorf("signed in, and the strip answers %d", code)
	}
	p.send("POST", "/api/sign-out", "", "")
	if code, _ := p.send("GET", "/api/strip", "", ""); code != 401 {
		t.Errorf("signed out, and the strip answers %d", code)
	}
	last := 0
	for range 25 {
		last, _ = p.send("POST", "/api/sign-in", "", `{"login":"ana","password":"guess"}`)
	}
	if last != http.StatusTooManyRequests {
		t.Errorf("guessing is not slowed down: %d", last)
	}
}

func TestTheCookieIsNotForScriptsAndOtherSitesAreRefused(t *testing.T) {
	t.Parallel()
	srv := start(t)
	res, err := http.Post(srv.URL+"/api/demo/sign-in", "application/json", strings.NewReader(`{"login":"ana"}`))
	if err != nil {
		t.Fatal(err)
	}
	_ = res.Body.Close()
	c := res.Header.Get("Set-Cookie")
	if !strings.Contains(c, "HttpOnly") || !strings.Contains(c, "SameSite=Lax") {
		t.Error(c)
	}
	req, _ := http.NewRequest("POST", srv.URL+"/api/demo/sign-in", strings.NewReader(`{"login":"ana"}`))
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	if res, err = http.DefaultClient.Do(req); err != nil || res.StatusCode != 403 {
		t.Errorf("another site's request: %v %v", res.StatusCode, err)
	}
	_ = res.Body.Close()
}

func TestACommandOverTheWire(t *testing.T) {
	t.Parallel()
	srv := start(t)
	ana, max := visit(t, srv, "ana"), visit(t, srv, "max")
	ana.importSmall()
	_, body := ana.send("GET", "/api/orders/SO-1", "", "")
	var order query.OrderView
	if err := json.Unmarshal([]byte(body), &order); err != nil || len(order.Lines) != 1 {
		t.Fatal(body, err)
	}
	ask := func(qty string) string {
		l, _ := json.Marshal(order.Lines[0].ID)
		v, _ := json.Marshal(order.Lines[0].Version)
		return `{"ask":{"lines":[{"line":` + string(l) + `,"qty":` + qty + `,"seen":` + string(v) + `}]}}`
	}
	key := uuid.NewString()
	code, first := ana.send("POST", "/api/allocate", key, ask("4"))
	if code != 200 || !strings.Contains(first, "Allocated 4 of X for SO-1.") {
		t.Fatal(code, first)
	}
	if code, again := ana.send("POST", "/api/allocate", key, ask("4")); code != 200 || again != first {
		t.Errorf("repeated with the same key: %d %s", code, again)
	}
	if code, body := max.send("POST", "/api/allocate", uuid.NewString(), ask("2")); code != 409 ||
		!strings.Contains(body, "Ana Ruiz allocated 4") {
		t.Errorf("a stale click: %d %s", code, body)
	}
	for what, bad := range map[string]string{
		"zero": ask("0"), "no number": ask(`"many"`), "no JSON": "{", "unknown field": `{"ask":{"orders":[]},"extra":1}`,
	} {
		if code, body := ana.send("POST", "/api/allocate", uuid.NewString(), bad); code != 422 && code != 400 {
			t.Errorf("%s: %d %s", what, code, body)
		}
	}
	if code, _ := ana.send("POST", "/api/allocate", "", ask("1")); code != 422 {
		t.Errorf("without a key: %d", code)
	}
	if code, body := visit(t, srv, "flo").send("POST", "/api/allocate", uuid.NewString(), ask("1")); code != 403 ||
		!strings.Contains(body, "signed in as floor") {
		t.Errorf("the floor allocates: %d %s", code, body)
	}
}

func TestWhatOnePersonDoesAnotherHears(t *testing.T) {
	t.Parallel()
	srv := start(t)
	ana, max := visit(t, srv, "ana"), visit(t, srv, "max")
	ana.importSmall()
	req, _ := http.NewRequest("GET", srv.URL+"/api/live", nil)
	res, err := max.c.Do(req)
	if err != nil || res.StatusCode != 200 {
		t.Fatal(res, err)
	}
	defer func() { _ = res.Body.Close() }()
	heard := make(chan string, 10)
	go func() {
		for sc := bufio.NewScanner(res.Body); sc.Scan(); {
			if text, ok := strings.CutPrefix(sc.Text(), "data: "); ok {
				heard <- text
			}
		}
	}()
	if code, body := ana.send("POST", "/api/allocate", uuid.NewString(), `{"ask":{"orders":[{"number":"SO-1","seen":0}]}}`); code != 200 {
		t.Fatal(code, body)
	}
	for {
		select {
		case text := <-heard:
			if strings.Contains(text, `"orders":["SO-1"]`) && strings.Contains(text, `"skus":["X"]`) && strings.Contains(text, "Ana Ruiz") {
				return
			}
		case <-time.After(2 * time.Minute):
			t.Fatal("nothing was heard")
		}
	}
}

func TestHealthMetricsAndUnknownPaths(t *testing.T) {
	t.Parallel()
	srv := start(t)
	get := func(path string) (int, string) {
		res, err := http.Get(srv.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = res.Body.Close() }()
		b, _ := io.ReadAll(res.Body)
		return res.StatusCode, string(b)
	}
	for path, want := range map[string]int{
		"/healthz": 200, "/readyz": 200, "/api/nothing": 404, "/assets/none.js": 404, "/favicon.ico": 404, "/api/openapi.json": 200,
	} {
		if code, body := get(path); code != want {
			t.Errorf("%s: %d %s", path, code, body)
		}
	}
	if _, body := get("/metrics"); strings.Contains(body, "journeyman_http_seconds") {
		t.Error("what is measured is served to everybody")
	}
}

// Whoever invents methods does not fill the memory: they are counted together.
func TestInventedMethodsAreCountedTogether(t *testing.T) {
	t.Parallel()
	s := api.New(api.Options{Desk: rooms.Open(dbtest.Store(t), rooms.Options{}), Log: slog.New(slog.DiscardHandler)})
	h, m := s.Handler(), s.Metrics()
	for i := range 200 {
		h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest(fmt.Sprintf("INVENTED%d", i), "/healthz", nil))
	}
	w := httptest.NewRecorder()
	m.ServeHTTP(w, httptest.NewRequest("GET", "/metrics", nil))
	if text := w.Body.String(); strings.Contains(text, "INVENTED") ||
		!strings.Contains(text, `journeyman_http_seconds_count{code="Method Not Allowed",method="other"`) {
		t.Errorf("measured: %s", text)
	}
}
