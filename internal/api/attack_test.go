package api_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"hash/fnv"
	"io"
	"log/slog"
	"maps"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"

	"journeyman/internal/api"
	"journeyman/internal/dbtest"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/dock"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
	"journeyman/internal/store"
)

// full tries all that the attacks can think of; without it they try a part that is drawn by the names.
var full = flag.Bool("full", false, "attack in full")

// besieged is a server with the examples that writes down what it logs.
type besieged struct {
	*httptest.Server
	store *store.Store
	desk  *rooms.Rooms
	log   *logged
}

type logged struct {
	mu   sync.Mutex
	text bytes.Buffer
}

func (l *logged) Write(b []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(b)
}

func (l *logged) faults() []string {
	l.mu.Lock()
	defer l.mu.Unlock()
	var out []string
	for _, line := range strings.Split(l.text.String(), "\n") {
		if strings.Contains(line, "level=ERROR") || strings.Contains(line, "panic") {
			out = append(out, line)
		}
	}
	return out
}

func besiege(t *testing.T, s *store.Store, hosts ...string) *besieged {
	t.Helper()
	return besiegeWith(t, s, standin.Carrier{}, hosts...)
}

// besiegeWith is besiege with a carrier of the test's own.
func besiegeWith(t *testing.T, s *store.Store, carrier dock.Carrier, hosts ...string) *besieged {
	t.Helper()
	b := &besieged{store: s, log: &logged{}}
	log := slog.New(slog.NewTextHandler(b.log, nil))
	live := api.NewLive(s, log)
	ctx, stop := context.WithCancel(context.Background())
	t.Cleanup(stop)
	go live.Run(ctx)
	b.desk = rooms.Open(s, rooms.Options{WeakHash: true, Carrier: carrier, Tell: live.Tell, Log: log})
	for _, p := range api.DemoPeople() {
		if _, err := b.desk.Admin.AddUser(ctx, admin.NewUser{
			Login: p.Login, Name: p.Name, Role: command.Role(p.Role),
			Password: "correct horse",
		}); err != nil && !strings.Contains(err.Error(), "already") {
			t.Fatal(err)
		}
	}
	b.Server = httptest.NewServer(api.New(api.Options{Desk: b.desk, Live: live, Log: log, Demo: true, Hosts: hosts}).Handler())
	t.Cleanup(func() { live.End(); b.Close() })
	return b
}

// filled imports the examples, with days that are still to come.
func (b *besieged) filled(t *testing.T) *besieged {
	t.Helper()
	ana, files := visit(t, b.Server, "ana"), map[string]string{}
	for _, n := range []string{"items", "stock", "customers", "inbound", "orders"} {
		text, err := os.ReadFile("../../examples/" + n + ".csv")
		if err != nil {
			t.Fatal(err)
		}
		files[n+".csv"] = strings.NewReplacer("2027-03-", "2099-03-", "2027-02-", "2026-02-").Replace(string(text))
	}
	key := uuid.NewString()
	if code, body := ana.files(key, files); code != 200 {
		t.Fatal(code, body)
	}
	if code, body := ana.send("POST", "/api/imports/apply", uuid.NewString(), `{"ask":{"import":"`+key+`"}}`); code != 200 {
		t.Fatal(code, body)
	}
	return b
}

// logins are the demo's people by role.
func logins() map[string]string {
	out := map[string]string{}
	for _, p := range api.DemoPeople() {
		out[p.Role] = p.Login
	}
	return out
}

// valid makes a value that the schema takes. What is called session or login names nobody, so that nobody is thrown out.
func (d description) valid(name string, s schema) any {
	s = d.resolve(s)
	switch {
	case slices.Contains(s.Enum, any("coordinator")): // other holds are lifted by a manager
		return "coordinator"
	case len(s.Enum) > 0:
		return s.Enum[0]
	case s.is("array"):
		return []any{d.valid(name, *s.Items)}
	case s.is("object"):
		out := map[string]any{}
		for _, p := range s.Required {
			if p != "$schema" {
				out[p] = d.valid(p, s.Properties[p])
			}
		}
		return out
	case s.is("boolean"):
		return false
	case s.is("integer"), s.is("number"):
		if name == "session" {
			return 999_999
		}
		if s.Minimum != nil && *s.Minimum > 1 {
			return *s.Minimum
		}
		return 1
	}
	known := map[string]string{
		"number": "SO-1001", "order": "SO-1001", "orders": "SO-1001", "sku": "GL-2040-1", "warehouse": "HL", "customer": "SPC",
		"login": "nobody",
		"kind":  "credit", "password": "correct horse battery",
	}
	switch {
	case s.Format == "date":
		return "2099-06-01"
	case s.Format == "date-time":
		return "2099-06-01T00:00:00Z"
	case s.Format == "uuid":
		return uuid.NewString()
	case known[name] != "":
		return known[name]
	case s.MinLength != nil:
		return strings.Repeat("x", *s.MinLength)
	}
	return "x"
}

// asked is an operation with a path and a body that it takes.
type asked struct {
	operation
	method, path string
	body         map[string]any // nil if it has none
}

// operations are all that the description has, but those that let people in and out.
func (d description) operations() []asked {
	var out []asked
	for path, methods := range d.Paths {
		for method, op := range methods {
			if slices.Contains([]string{"sign-in", "demo-sign-in", "sign-out", "check-import"}, op.ID) {
				continue
			}
			a := asked{operation: op, method: strings.ToUpper(method), path: path}
			for _, p := range op.Parameters {
				if p.In == "path" {
					a.path = strings.ReplaceAll(a.path, "{"+p.Name+"}", fmt.Sprint(d.valid(p.Name, p.Schema)))
				}
			}
			if op.Body != nil {
				a.body = d.valid("", op.Body.Content["application/json"].Schema).(map[string]any)
			}
			out = append(out, a)
		}
	}
	slices.SortFunc(out, func(a, b asked) int { return strings.Compare(a.ID, b.ID) })
	return out
}

// mayBy reads from docs/security.md which roles may ask for an operation.
func mayBy(t *testing.T) map[string][]string {
	t.Helper()
	text, err := os.ReadFile("../../docs/security.md")
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]string{}
	for _, m := range regexp.MustCompile("(?m)^\\| ([^|]*`[^|]*) \\| ([a-z ,]+) \\|$").FindAllStringSubmatch(string(text), -1) {
		for _, id := range regexp.MustCompile("`([a-z-]+)`").FindAllStringSubmatch(m[1], -1) {
			out[id[1]] = strings.Split(strings.ReplaceAll(m[2], "everybody who is signed in", "floor, sales, coordinator, manager"), ", ")
		}
	}
	return out
}

func TestAttackTheMatrixOfRolesAndOperations(t *testing.T) {
	t.Parallel()
	b := besiege(t, dbtest.Store(t)).filled(t)
	may, tried := mayBy(t), map[string]bool{}
	for _, role := range []string{"", "floor", "sales", "coordinator", "manager"} { // the manager last: what is done is done
		p := visit(t, b.Server, logins()[role])
		for _, op := range described(t).operations() {
			roles, listed := may[op.ID]
			if !listed {
				t.Errorf("docs/security.md does not say who may %s", op.ID)
			}
			tried[op.ID] = true
			body := ""
			if op.body != nil {
				body = jsonOf(op.body)
			}
			code, said := p.send(op.method, op.path, uuid.NewString(), body)
			want := slices.Contains(roles, role) || slices.Contains(roles, "anybody")
			switch {
			case code >= 500:
				t.Errorf("%s as %q: %d %s", op.ID, role, code, said)
			case !want && role == "" && code != 401, !want && role != "" && code != 403:
				t.Errorf("%s as %q answers %d: %.200s", op.ID, role, code, said)
			case want && (code == 401 || code == 403 && !strings.Contains(said, "Somebody else")):
				t.Errorf("%s is refused to %q: %d %.200s", op.ID, role, code, said)
			}
		}
	}
	for id := range may {
		if !tried[id] && !slices.Contains([]string{"sign-in", "demo-sign-in", "sign-out", "check-import"}, id) {
			t.Errorf("docs/security.md names %s, which there is not", id)
		}
	}
	if len(tried) < 70 {
		t.Errorf("only %d operations were tried", len(tried))
	}
	for _, line := range b.log.faults() {
		t.Error(line)
	}
}

// hostile are values that nobody means well with.
func hostile() []string {
	return []string{
		`null`, `-1`, `0`, `1e300`, `9223372036854775807`, `-9223372036854775808`, `18446744073709551616`, `1.5`, `true`, `{}`, `[]`, `[[[[]]]]`,
		`""`, `" "`, `"\u0000"`, `"\ud800"`, `"💥"`, `"' OR 1=1 --"`, `"%_\\"`, `"../../etc/passwd"`, `"{{7*7}}"`, `"9999-12-31"`, `"0001-01-01"`, `"2027-02-30"`,
		`"` + strings.Repeat("a", 100_000) + `"`, `"` + strings.Repeat("é", 201) + `"`, `[` + strings.Repeat("1,", 20_000) + `1]`, `{"a":` + strings.Repeat("[", 5_000) + strings.Repeat("]", 5_000) + `}`,
	}
}

// leaves calls do for each place of a JSON document, with a function that sets what is there.
func leaves(doc any, at string, set func(any), do func(at string, set func(any))) {
	do(at, set)
	switch x := doc.(type) {
	case map[string]any:
		for _, k := range slices.Sorted(maps.Keys(x)) {
			leaves(x[k], at+"."+k, func(v any) { x[k] = v }, do)
		}
	case []any:
		for i := range x {
			leaves(x[i], at+"[]", func(v any) { x[i] = v }, do)
		}
	}
}

// drawn says whether a part of the attack is tried in the short form.
func drawn(name string, of uint32) bool {
	h := fnv.New32a()
	_, _ = h.Write([]byte(name))
	return *full || h.Sum32()%of == 0
}

// watched sees to it that the attack costs little: memory while it lasts, and nothing that goes on after it.
func watched(t *testing.T, attack func()) {
	t.Helper()
	runtime.GC()
	before, ended, peak := runtime.NumGoroutine(), make(chan struct{}), make(chan uint64)
	go func() {
		most := uint64(0)
		for tick := time.NewTicker(20 * time.Millisecond); ; {
			select {
			case <-tick.C:
				var m runtime.MemStats
				runtime.ReadMemStats(&m)
				most = max(most, m.HeapInuse)
			case <-ended:
				tick.Stop()
				peak <- most
				return
			}
		}
	}()
	attack()
	close(ended)
	if most := <-peak; most > 512<<20 {
		t.Errorf("the attack took %d MB", most>>20)
	}
	for range 300 {
		if runtime.NumGoroutine() <= before+60 {
			return
		}
		time.Sleep(100 * time.Millisecond)
	}
	t.Errorf("there were %d goroutines, and there are %d", before, runtime.NumGoroutine())
}

func TestAttackWithBodiesOfAllKinds(t *testing.T) {
	b := besiege(t, dbtest.Store(t)).filled(t)
	p := visit(t, b.Server, "max")
	tried := 0
	try := func(op asked, what, body string) {
		tried++
		began := time.Now()
		code, said := p.send(op.method, op.path, uuid.NewString(), body)
		if code >= 500 || code == 401 || time.Since(began) > 20*time.Second {
			t.Errorf("%s with %s: %d after %s: %.300s", op.ID, what, code, time.Since(began), said)
		}
	}
	watched(t, func() {
		for _, op := range described(t).operations() {
			if op.body == nil {
				continue
			}
			for _, raw := range []string{``, `{`, `null`, `[]`, `"x"`, "\xff\xfe", "\ufeff{}", `{"ask":{}}`, strings.Repeat("[", 200_000), `{"ask":1,"ask":2}`, `{"ask":"` + strings.Repeat("x", 9<<20)} {
				if drawn(op.ID+raw[:min(len(raw), 40)], 6) {
					try(op, fmt.Sprintf("%.40q", raw), raw)
				}
			}
			// Each place of the body in turn, also those that may be left out.
			doc := map[string]any{}
			maps.Copy(doc, op.body)
			d := described(t)
			everything := d.all("", op.Body.Content["application/json"].Schema, 0)
			for _, doc := range []any{doc, everything} {
				leaves(doc, "", func(any) {}, func(at string, set func(any)) {
					if at == "" {
						return
					}
					for i, v := range hostile() {
						if !drawn(fmt.Sprint(op.ID, at, i), 40) {
							continue
						}
						const hole = "\x01hole\x01"
						was := jsonOf(doc)
						set(hole)
						text := strings.Replace(jsonOf(doc), jsonOf(hole), v, 1)
						try(op, fmt.Sprintf("%s = %.40s", at, v), text)
						var back any
						_ = json.Unmarshal([]byte(was), &back)
						set(placed(back, at))
					}
				})
			}
		}
	})
	if tried < 300 {
		t.Errorf("only %d bodies were tried", tried)
	}
	t.Logf("%d bodies", tried)
	for _, line := range b.log.faults() {
		t.Error(line)
	}
	sound(t, b.store)
}

// placed is what stands at a place of a document.
func placed(was any, at string) any {
	for _, k := range strings.FieldsFunc(strings.ReplaceAll(at, "[]", ".[]"), func(r rune) bool { return r == '.' }) {
		switch x := was.(type) {
		case map[string]any:
			was = x[k]
		case []any:
			was = x[0]
		}
	}
	return was
}

// all is a value with all that the schema knows, also what may be left out.
func (d description) all(name string, s schema, depth int) any {
	s = d.resolve(s)
	switch {
	case s.is("object") && depth < 6:
		out := map[string]any{}
		for p, x := range s.Properties {
			if p != "$schema" {
				out[p] = d.all(p, x, depth+1)
			}
		}
		return out
	case s.is("array") && depth < 6:
		return []any{d.all(name, *s.Items, depth+1)}
	}
	return d.valid(name, s)
}

func sound(t *testing.T, s *store.Store) {
	t.Helper()
	if diff, n, err := s.Audit(context.Background()); err != nil || len(diff) > 0 || n == 0 {
		t.Errorf("audit: %v, %d counts, %v", diff, n, err)
	}
}

func TestAttackWithQueriesAndPaths(t *testing.T) {
	b := besiege(t, dbtest.Store(t)).filled(t)
	p := visit(t, b.Server, "max")
	values := []string{
		"%00", "%ff", "%ED%A0%80", "%0d%0aX-Evil:1", "%27%20OR%201=1", "%25_%5C", "-1", "9223372036854775807", "1e9", "99999999999999999999", "NaN", "2027-02-30", "0000-00-00",
		"..%2f..%2fetc%2fpasswd", strings.Repeat("a", 500), strings.Repeat("%F0%9F%92%A5", 60), strings.Repeat("a%20", 80), "", "%20", "{}", "%zz",
	}
	tried := 0
	watched(t, func() {
		for _, op := range described(t).operations() {
			for _, q := range op.Parameters {
				if q.In != "query" && q.In != "path" {
					continue
				}
				for _, v := range values {
					if !drawn(op.ID+q.Name+v, 4) {
						continue
					}
					path := op.path
					if q.In == "path" {
						for known, methods := range described(t).Paths {
							for _, o := range methods {
								if o.ID == op.ID {
									path = strings.ReplaceAll(known, "{"+q.Name+"}", v)
								}
							}
						}
					} else {
						path += "?" + q.Name + "=" + v
					}
					tried++
					if line := raw(t, b, p, op.method+" "+path+" HTTP/1.1\r\n", "", ""); line >= 500 {
						t.Errorf("%s %s: %d", op.method, path, line)
					}
				}
			}
		}
	})
	if tried < 80 {
		t.Errorf("only %d were tried", tried)
	}
	for _, line := range b.log.faults() {
		t.Error(line)
	}
}

// raw sends a request line, headers and a body as they are, and returns the status; 0 if the connection was closed.
func raw(t *testing.T, b *besieged, p *person, line, headers, body string) int {
	t.Helper()
	c, err := net.Dial("tcp", b.Listener.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Close() }()
	_ = c.SetDeadline(time.Now().Add(20 * time.Second))
	cookie := ""
	if p != nil {
		cookie = "Cookie: " + p.cookie() + "\r\n"
	}
	if !strings.Contains(headers, "Host:") {
		headers = "Host: 127.0.0.1\r\n" + headers
	}
	_, _ = io.WriteString(c, line+headers+cookie+"Connection: close\r\n\r\n"+body)
	res, err := http.ReadResponse(bufio.NewReader(c), nil)
	if err != nil {
		var late net.Error
		if errors.As(err, &late) && late.Timeout() {
			t.Errorf("%.60q is not answered", line)
		}
		return 0
	}
	defer func() { _ = res.Body.Close() }()
	_, _ = io.Copy(io.Discard, res.Body)
	if id := res.Header.Get("X-Request-Id"); res.StatusCode != 400 && (len(id) > 64 || strings.ContainsAny(id, "<>\"' ")) {
		t.Errorf("the request's own number is given back as %q", id)
	}
	return res.StatusCode
}

func (p *person) cookie() string {
	req, _ := http.NewRequest("GET", p.url+"/api/me", nil)
	var all []string
	for _, c := range p.c.Jar.Cookies(req.URL) {
		all = append(all, c.Name+"="+c.Value)
	}
	return strings.Join(all, "; ")
}

func TestAttackWithHeadersAndMethods(t *testing.T) {
	b := besiege(t, dbtest.Store(t), "127.0.0.1").filled(t)
	p := visit(t, b.Server, "max")
	long := strings.Repeat("a", 8_000)
	watched(t, func() {
		for _, c := range []struct {
			line, headers string
			want          []int
		}{
			{"GET /api/orders HTTP/1.1\r\n", "X-Request-Id: " + long + "\r\n", []int{200}},
			{"GET /api/orders HTTP/1.1\r\n", "X-Request-Id: <script>\r\n", []int{200}},
			{"GET /api/orders HTTP/1.1\r\n", "Host: attack.example\r\n", []int{421}},
			{"GET /api/orders HTTP/1.1\r\n", "Host: 127.0.0.1:80@attack.example\r\n", []int{400, 421}},
			{"GET http://attack.example/api/orders HTTP/1.1\r\n", "", []int{421}},
			{"GET /api/orders HTTP/1.1\r\n", "Accept: " + long + "\r\nAccept-Language: " + long + "\r\n", []int{200, 406}},
			{"GET /api/orders HTTP/1.1\r\n", strings.Repeat("X-A: "+long+"\r\n", 300), []int{431, 0}},
			{"GET /api/orders HTTP/1.1\r\n", "Range: bytes=0-18446744073709551615\r\n", []int{200}},
			{"GET /api/orders HTTP/1.1\r\n", "Last-Event-ID: " + long + "\r\n", []int{200}},
			{"POST /api/allocate HTTP/1.1\r\n", "Content-Length: 10\r\nTransfer-Encoding: chunked\r\n", []int{400, 0, 408, 413, 415, 422}},
			{"POST /api/allocate HTTP/1.1\r\n", "Content-Length: -1\r\n", []int{400}},
			{"POST /api/allocate HTTP/1.1\r\n", "Content-Length: 0\r\nContent-Type: application/xml\r\nIdempotency-Key: x\r\n", []int{400, 415, 422}},
			{"POST /api/allocate HTTP/1.1\r\n", "Content-Length: 0\r\nSec-Fetch-Site: cross-site\r\nIdempotency-Key: x\r\n", []int{403}},
			{"TRACE /api/orders HTTP/1.1\r\n", "", []int{405, 404}},
			{"CONNECT attack.example:443 HTTP/1.1\r\n", "Host: attack.example:443\r\n", []int{400, 404, 405, 421}},
			{"PROPFIND /api/orders HTTP/1.1\r\n", "", []int{404, 405}},
			{"GET /api/orders HTTP/9.9\r\n", "", []int{400, 505}},
			{"GET /" + strings.Repeat("../", 100) + "etc/passwd HTTP/1.1\r\n", "", []int{200, 301, 307, 400, 404}},
			{"GET /%2e%2e/%2e%2e/etc/passwd HTTP/1.1\r\n", "", []int{200, 301, 307, 400, 404}},
			{"GET /api//orders HTTP/1.1\r\n", "", []int{301, 307, 404}},
		} {
			if code := raw(t, b, p, c.line, c.headers, ""); !slices.Contains(c.want, code) {
				t.Errorf("%.60q %.60q: %d, want %v", c.line, c.headers, code, c.want)
			}
		}
		// A body that is not as its headers say is the fault of whoever sends it.
		for _, c := range []struct{ headers, body string }{
			{"Transfer-Encoding: chunked\r\n", "FFFFFFFFFFFFFFFFF\r\n"},
			{"Transfer-Encoding: chunked\r\n", "2\r\n{}x\r\n"},
			{"Transfer-Encoding: chunked\r\n", "not a length\r\n{}\r\n0\r\n\r\n"},
		} {
			for path, kind := range map[string]string{
				"/api/allocate": "application/json", "/api/draft": "application/json", "/api/sign-in": "application/json", "/api/imports": "multipart/form-data; boundary=x",
			} {
				if code := raw(t, b, p, "POST "+path+" HTTP/1.1\r\n", "Content-Type: "+kind+"\r\nIdempotency-Key: "+uuid.NewString()+"\r\n"+c.headers, c.body); code != 400 {
					t.Errorf("%s %.20q %.20q: %d, want 400", path, c.headers, c.body, code)
				}
			}
		}
		for i := range 500 {
			if code := raw(t, b, p, fmt.Sprintf("M%d /api/orders HTTP/1.1\r\n", i), "", ""); code != 405 && code != 404 {
				t.Fatalf("an invented method is answered with %d", code)
			}
		}
	})
	for _, line := range b.log.faults() {
		t.Error(line)
	}
}

func TestAttackWithUploadsAndCalendars(t *testing.T) {
	b := besiege(t, dbtest.Store(t)).filled(t)
	p := visit(t, b.Server, "ana")
	wide := strings.Builder{}
	for i := range 80_000 {
		fmt.Fprintf(&wide, "c%d,", i)
	}
	rows := 200_000
	if !*full {
		rows = 20_000
	}
	watched(t, func() {
		for name, files := range map[string]map[string]string{
			"80,000 columns":    {"orders.csv": wide.String() + "\n1\n"},
			"an open quote":     {"items.csv": "sku,name\n\"A"},
			"one long line":     {"items.csv": "sku,name\n" + strings.Repeat("a", 30<<20)},
			"nothing":           {"items.csv": ""},
			"bytes":             {"items.csv": "\x00\x01\xff\xfe"},
			"all wrong":         {"orders.csv": "order,customer,wanted,line,sku,qty\n" + strings.Repeat("SO-9,NOBODY,never,x,NONE,-1\n", rows)},
			"a name of a path":  {"../../etc/items.csv": "sku,name\nA,B\n"},
			"a name of nothing": {"x": "a"},
			"the same columns":  {"items.csv": strings.Repeat("sku,", 100) + "\nA\n"},
		} {
			began := time.Now()
			code, said := p.files(uuid.NewString(), files)
			if code >= 500 || len(said) > 2<<20 || time.Since(began) > 2*time.Minute {
				t.Errorf("%s: %d after %s, %d bytes: %.200s", name, code, time.Since(began), len(said), said)
			}
		}
		if code, _ := visit(t, b.Server, "").files(uuid.NewString(), map[string]string{"items.csv": strings.Repeat("a", 1<<20)}); code != 401 && code != 0 {
			t.Errorf("an upload of nobody's: %d", code)
		}
		max := visit(t, b.Server, "max")
		for _, file := range []string{
			"BEGIN:VCALENDAR\r\n" + strings.Repeat("BEGIN:VEVENT\r\n", 60_000),
			"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART;VALUE=DATE:20990101\r\nRRULE:FREQ=DAILY;BYHOUR=1,2;BYMINUTE=1,2;BYSECOND=1,2\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
			"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART;VALUE=DATE:20990101\r\nRRULE:FREQ=SECONDLY\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
			"\x00", strings.Repeat("é", 400_000),
		} {
			if code, said := max.send("POST", "/api/close-days", uuid.NewString(), jsonOf(map[string]any{"ask": map[string]any{"warehouse": "HL", "file": file}})); code != 422 {
				t.Errorf("a calendar that begins %.60q: %d %.200s", file, code, said)
			}
		}
	})
	for _, line := range b.log.faults() {
		t.Error(line)
	}
}

// A request that goes on while its person signs out, or is put out, does not bring them back; streams end.
func TestAttackSignOutAgainstSlowRequestsAndStreams(t *testing.T) {
	t.Parallel()
	b := besiege(t, dbtest.Store(t)).filled(t)
	boss := visit(t, b.Server, "max")
	for i := range 6 {
		tom := visit(t, b.Server, "tom")
		cookie := tom.cookie()
		slow, err := net.Dial("tcp", b.Listener.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		text := `{"customer":"SPC"}`
		_, _ = fmt.Fprintf(slow, "POST /api/draft HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: %d\r\nCookie: %s\r\n\r\n%s", len(text), cookie, text[:5])
		req, _ := http.NewRequest("GET", b.URL+"/api/live", nil)
		stream, err := tom.c.Do(req)
		if err != nil || stream.StatusCode != 200 {
			t.Fatal(err, stream)
		}
		if i%2 == 0 {
			if code, said := tom.send("POST", "/api/sign-out", "", "{}"); code >= 300 {
				t.Fatal(code, said)
			}
		} else {
			does(t, boss, "/api/set-person", map[string]any{"login": "tom", "name": "Tom", "role": "sales", "active": false}, "")
		}
		ended := make(chan struct{})
		go func() {
			_, _ = io.Copy(io.Discard, stream.Body)
			_ = stream.Body.Close()
			close(ended)
		}()
		select {
		case <-ended:
		case <-time.After(time.Minute):
			t.Error("the stream goes on")
		}
		_, _ = io.WriteString(slow, text[5:])
		res, err := http.ReadResponse(bufio.NewReader(slow), nil)
		if err == nil {
			if res.Header.Get("Set-Cookie") != "" {
				t.Error("a slow request gives the session back")
			}
			_, _ = io.Copy(io.Discard, res.Body)
			_ = res.Body.Close()
		}
		_ = slow.Close()
		if code := raw(t, b, nil, "GET /api/orders HTTP/1.1\r\n", "Cookie: "+cookie+"\r\n", ""); code != 401 {
			t.Errorf("after it ended the session is worth %d", code)
		}
		if i%2 == 1 {
			does(t, boss, "/api/set-person", map[string]any{"login": "tom", "name": "Tom", "role": "sales", "active": true}, "")
		}
	}
}

// Many clients give up after a time in which much of what they asked has been done; each asks again with the same key until it is answered.
func TestAttackWithClientsThatGiveUpLate(t *testing.T) {
	t.Parallel()
	b := besiege(t, dbtest.Store(t)).filled(t)
	clients, rounds := 32, 4
	if *full {
		rounds = 20
	}
	var entered, cut atomic.Int64
	var numbers sync.Map
	var wg sync.WaitGroup
	for n := range clients {
		tom := visit(t, b.Server, "tom")
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(n), 7))
			for range rounds {
				key, body := uuid.NewString(), `{"ask":{"customer":"SPC","wanted":"2099-06-01","lines":[{"sku":"GL-2040-1","qty":1,"how":"none"}]}}`
				entered.Add(1)
				for try := 0; ; try++ {
					ctx, cancel := context.WithTimeout(context.Background(), time.Duration(5+r.IntN(150))*time.Millisecond)
					if try > 4 {
						cancel()
						ctx, cancel = context.WithTimeout(context.Background(), time.Minute)
					}
					req, _ := http.NewRequestWithContext(ctx, "POST", b.URL+"/api/enter-order", strings.NewReader(body))
					req.Header.Set("Content-Type", "application/json")
					req.Header.Set("Idempotency-Key", key)
					res, err := tom.c.Do(req)
					var text []byte
					if err == nil {
						text, err = io.ReadAll(res.Body)
						_ = res.Body.Close()
					}
					cancel()
					if err != nil {
						cut.Add(1)
						continue
					}
					var out command.Outcome
					if res.StatusCode == 200 && json.Unmarshal(text, &out) == nil && len(out.Documents) == 1 {
						if other, twice := numbers.LoadOrStore(out.Documents[0].Number, key); twice {
							t.Errorf("%s was made for %s and for %s", out.Documents[0].Number, other, key)
						}
						break
					}
					if res.StatusCode != 503 && res.StatusCode != 409 {
						t.Errorf("%d %s", res.StatusCode, text)
						break
					}
				}
			}
		})
	}
	wg.Wait()
	orders := int64(0)
	if err := b.store.Pool.QueryRow(context.Background(), `SELECT count(*) FROM sales_order
	WHERE wanted = '2099-06-01'`).Scan(&orders); err != nil {
		t.Fatal(err)
	}
	if orders != entered.Load() {
		t.Errorf("%d orders were asked for, %d are there", entered.Load(), orders)
	}
	if cut.Load() == 0 {
		t.Error("nobody gave up")
	}
	sound(t, b.store)
}
