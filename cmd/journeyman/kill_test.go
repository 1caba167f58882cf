package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"journeyman/internal/dbtest"
	"journeyman/internal/demo"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
)

// The test program is the server, too: started again with this set, it serves.
const asServer = "JOURNEYMAN_TEST_AS_SERVER"

func TestMain(m *testing.M) {
	if os.Getenv(asServer) != "" {
		main()
		return
	}
	dbtest.Main(m)
}

// process is a server in a process of its own.
type process struct {
	t    *testing.T
	url  string
	cmd  *exec.Cmd
	addr string
	http *http.Client
}

// serveProcess starts a server on the database and signs in there.
func serveProcess(t *testing.T, url, login string, flags ...string) *process {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	addr := l.Addr().String()
	_ = l.Close()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	p := &process{t: t, url: url, addr: addr, http: &http.Client{Jar: jar}}
	p.cmd = exec.Command(os.Args[0], append([]string{"serve", "--addr", addr, "--metrics-addr", ""}, flags...)...)
	p.cmd.Env = append(os.Environ(), asServer+"=1", "DATABASE_URL="+url, "JOURNEYMAN_LOG=error")
	p.cmd.Stdout, p.cmd.Stderr = io.Discard, os.Stderr
	if err := p.cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = p.cmd.Process.Kill(); _ = p.cmd.Wait() })
	for deadline := time.Now().Add(2 * time.Minute); ; {
		if res, err := p.http.Get("http://" + addr + "/readyz"); err == nil {
			_ = res.Body.Close()
			if res.StatusCode == 200 {
				break
			}
		}
		if time.Now().After(deadline) {
			t.Fatal("the server did not come up")
		}
		time.Sleep(20 * time.Millisecond)
	}
	if code, body := p.post("/api/sign-in", "", fmt.Sprintf(`{"login":%q,"password":"correct horse"}`, login)); code != 200 {
		t.Fatal(code, body)
	}
	return p
}

func (p *process) post(path, key, body string) (int, string) {
	req, err := http.NewRequest("POST", "http://"+p.addr+path, strings.NewReader(body))
	if err != nil {
		p.t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	if key != "" {
		req.Header.Set("Idempotency-Key", key)
	}
	res, err := p.http.Do(req)
	if err != nil {
		return 0, err.Error()
	}
	defer func() { _ = res.Body.Close() }()
	b, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(b)
}

// The server is killed in the middle of allocating 1,500 orders at once. When it is
// back, all or nothing is done, and sending the request again does it once.
func TestAKilledServerHasDoneAllOrNothing(t *testing.T) {
	url := dbtest.URL(t)
	ctx := context.Background()
	s := dbtest.Open(t, url)
	d := rooms.Open(s, rooms.Options{WeakHash: true, Carrier: standin.Carrier{}})
	ana, err := d.Admin.AddUser(ctx, admin.NewUser{Login: "ana", Name: "Ana Ruiz", Role: command.Coordinator, Password: "correct horse"})
	if err != nil {
		t.Fatal(err)
	}
	const n = 1500
	if _, report, err := d.Importing.Import(ctx, command.Call{Key: command.NewKey(), Actor: ana}, demo.Bulk(3*n)); err != nil {
		t.Fatal(err, report.Faults)
	}
	type seen struct {
		Number string `json:"number"`
		Seen   int    `json:"seen"`
	}
	var orders []seen
	for i := range n {
		orders = append(orders, seen{fmt.Sprintf("SO-%d", i), 0})
	}
	ask, err := json.Marshal(map[string]any{"ask": map[string]any{"orders": orders}})
	if err != nil {
		t.Fatal(err)
	}
	// The owner sees what other connections are doing; the application's role does not.
	owner, err := pgx.Connect(ctx, url)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = owner.Close(ctx) }()
	count := func(q string) int {
		v := 0
		if err := owner.QueryRow(ctx, q).Scan(&v); err != nil {
			t.Fatal(err)
		}
		return v
	}
	key := uuid.NewString()
	killedInside := 0
	for round := range 3 {
		p := serveProcess(t, url, "ana")
		answered := make(chan int, 1)
		go func() {
			code, _ := p.post("/api/allocate", key, string(ask))
			answered <- code
		}()
		// Wait until its transaction holds something, then a little, then kill it.
		inside := `SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND xact_start IS NOT NULL
			AND backend_xid IS NOT NULL AND pid <> pg_backend_pid()`
		for deadline := time.Now().Add(2 * time.Minute); count(inside) == 0 && len(answered) == 0 && time.Now().Before(deadline); {
			time.Sleep(time.Millisecond)
		}
		time.Sleep(time.Duration(round*40) * time.Millisecond)
		if count(inside) > 0 && len(answered) == 0 {
			killedInside++
		}
		if err := p.cmd.Process.Signal(syscall.SIGKILL); err != nil {
			t.Fatal(err)
		}
		<-answered
		// The database rolls back as soon as it sees that the client is gone.
		for deadline := time.Now().Add(2 * time.Minute); count(inside) > 0 && time.Now().Before(deadline); {
			time.Sleep(5 * time.Millisecond)
		}
		moved, open := count(`SELECT count(*) FROM journal WHERE kind = 'allocate'`),
			count(`SELECT count(*) FROM line_count WHERE open > 0`)
		if !(moved == 0 && open == 3*n) && !(moved == 3*n && open == 0) {
			t.Fatalf("round %d: %d lines are allocated and %d open: half done", round, moved, open)
		}
		if diff, _, err := s.Audit(ctx); err != nil || len(diff) > 0 {
			t.Fatalf("round %d: audit %v %v", round, diff, err)
		}
	}
	if killedInside == 0 {
		t.Error("the server was never killed inside its transaction: the test shows nothing")
	}
	p := serveProcess(t, url, "ana")
	for range 2 {
		if code, body := p.post("/api/allocate", key, string(ask)); code != 200 {
			t.Fatal(code, body)
		}
	}
	if moved := count(`SELECT count(*) FROM journal WHERE kind = 'allocate'`); moved != 3*n {
		t.Errorf("%d lines are allocated, want %d", moved, 3*n)
	}
	if diff, compared, err := s.Audit(ctx); err != nil || len(diff) > 0 || compared < 10*n {
		t.Errorf("audit: %v, %d counts, %v", diff, compared, err)
	}
	// And it stops gracefully when it is asked to.
	if err := p.cmd.Process.Signal(os.Interrupt); err != nil {
		t.Fatal(err)
	}
	if err := p.cmd.Wait(); err != nil {
		t.Errorf("asked to stop, it ended with %v", err)
	}
}
