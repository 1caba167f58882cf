package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"regexp"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"journeyman/internal/demo"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/rooms"
	"journeyman/internal/store"
)

// How many do the job's ordinary work at once, and for how long.
const (
	loadCoordinators = 8
	loadPickers      = 8
	loadFor          = 60 * time.Second
	loadPassword     = "a kiln in the rain"
)

// load has coordinators and pickers at work on a book of many open lines, on one server and then on two.
func (b *benching) load() error {
	s, d, ana, err := b.office("load")
	if err != nil {
		return err
	}
	defer s.Close()
	if _, _, err := d.Importing.Import(b.ctx, command.Call{Key: command.NewKey(), Actor: ana}, demo.Bulk(b.lines)); err != nil {
		return err
	}
	var logins []string
	for i := range loadCoordinators + loadPickers {
		role := command.Coordinator
		if i >= loadCoordinators {
			role = command.Floor
		}
		n := admin.NewUser{Login: fmt.Sprintf("load%02d", i), Name: fmt.Sprintf("Load %d", i), Role: role, Password: loadPassword}
		if _, err := d.Admin.AddUser(b.ctx, n); err != nil {
			return err
		}
		logins = append(logins, n.Login)
	}
	conn, err := pgx.Connect(b.ctx, b.cluster.URL("load"))
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(b.ctx) }()
	if _, err := conn.Exec(b.ctx, vacuumFilled); err != nil {
		return err
	}
	for servers := 1; servers <= 2; servers++ {
		if err := b.loadOn(servers, logins, d, conn); err != nil {
			return fmt.Errorf("on %d servers: %w", servers, err)
		}
		if err := soundAfterLoad(b, s); err != nil {
			return err
		}
	}
	return nil
}

func soundAfterLoad(b *benching, s *store.Store) error {
	differences, compared, err := s.Audit(b.ctx)
	if err != nil {
		return err
	}
	if len(differences) > 0 {
		return fmt.Errorf("the audit finds %d differences, the first of them: %s", len(differences), differences[0])
	}
	fmt.Printf("  audited: %d counts are as the journal says\n", compared)
	return nil
}

// loadOn does so on so many servers, each a process of its own.
func (b *benching) loadOn(servers int, logins []string, d *rooms.Rooms, conn *pgx.Conn) error {
	var urls []string
	for range servers {
		url, stop, err := b.startServer("load")
		if err != nil {
			return err
		}
		defer stop()
		urls = append(urls, url)
	}
	databaseBusy := func() (ms float64, err error) {
		err = conn.QueryRow(b.ctx, `SELECT pg_stat_clear_snapshot(), active_time FROM pg_stat_database
			WHERE datname = current_database()`).Scan(nil, &ms)
		return ms, err
	}
	var all loadTimes
	var workers sync.WaitGroup
	failed := make(chan error, len(logins))
	before, err := databaseBusy()
	if err != nil {
		return err
	}
	until := time.Now().Add(loadFor)
	for i, login := range logins {
		w, err := signedIn(urls[i%len(urls)], login, uint64(i), &all)
		if err != nil {
			return err
		}
		turn := w.coordinate
		if i >= loadCoordinators {
			turn = w.pick
		}
		workers.Go(func() {
			for time.Now().Before(until) {
				if err := turn(); err != nil {
					failed <- fmt.Errorf("%s: %w", login, err)
					return
				}
			}
		})
	}
	workers.Wait()
	close(failed)
	if err := <-failed; err != nil {
		return err
	}
	time.Sleep(2 * time.Second) // what connections did is told by them, a second later
	after, err := databaseBusy()
	if err != nil {
		return err
	}
	if n, err := d.Dock.BookAll(b.ctx); err != nil || n > 0 {
		return errors.Join(err, fmt.Errorf("%d dispatches were not booked by the servers", n))
	}
	all.print(servers, after-before)
	return nil
}

// startServer starts a server process on the database and returns its address.
func (b *benching) startServer(database string) (url string, stop func(), err error) {
	self, err := os.Executable()
	if err != nil {
		return "", nil, err
	}
	cmd := exec.CommandContext(
		b.ctx, self, "serve", "--database", b.cluster.URL(database), "--addr", "127.0.0.1:0", "--metrics-addr", "", "--log", "error",
	)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err != nil {
		return "", nil, err
	}
	if err := cmd.Start(); err != nil {
		return "", nil, err
	}
	stop = func() {
		_ = cmd.Process.Signal(syscall.SIGINT)
		_ = cmd.Wait()
	}
	ready := regexp.MustCompile(`ready: (\S+)`)
	for lines := bufio.NewScanner(out); lines.Scan(); {
		if m := ready.FindStringSubmatch(lines.Text()); m != nil {
			go func() { _, _ = io.Copy(io.Discard, out) }()
			return m[1], stop, nil
		}
	}
	stop()
	return "", nil, errors.New("the server did not become ready")
}

// loadTimes is how long everything took, by what it was.
type loadTimes struct {
	mu       sync.Mutex
	commands []time.Duration
	reads    []time.Duration
	of       map[string][]time.Duration // by path, without numbers
	refused  int
}

var numbered = regexp.MustCompile(`/[A-Z]+-[0-9]+$`)

func (l *loadTimes) add(command bool, path string, took time.Duration) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if command {
		l.commands = append(l.commands, took)
	} else {
		l.reads = append(l.reads, took)
	}
	path = numbered.ReplaceAllString(path, "/…")
	if l.of == nil {
		l.of = map[string][]time.Duration{}
	}
	l.of[path] = append(l.of[path], took)
}

func (l *loadTimes) refuse() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.refused++
}

func (l *loadTimes) print(servers int, databaseMS float64) {
	fmt.Printf(
		"\nload: %d coordinators and %d pickers, for %.0f s, servers: %d\n", loadCoordinators, loadPickers, loadFor.Seconds(), servers,
	)
	total := time.Duration(0)
	for _, x := range []struct {
		what string
		of   []time.Duration
	}{{"commands", l.commands}, {"reads", l.reads}} {
		if len(x.of) == 0 {
			continue
		}
		slices.Sort(x.of)
		for _, t := range x.of {
			total += t
		}
		at := func(percent int) float64 { return ms(x.of[min(len(x.of)-1, len(x.of)*percent/100)]) }
		fmt.Printf(
			"  %-9s %6.0f a second   50th %6.1f ms   95th %6.1f ms   99th %6.1f ms\n", x.what,
			float64(len(x.of))/loadFor.Seconds(), at(50), at(95), at(99),
		)
	}
	fmt.Printf("  the database was at work for %.0f %% of the time that was waited\n", databaseMS/ms(total)*100)
	fmt.Printf("  %d of %d commands were refused\n", l.refused, len(l.commands))
	for _, path := range slices.Sorted(maps.Keys(l.of)) {
		of := l.of[path]
		slices.Sort(of)
		fmt.Printf("    %6d %-24s 50th %7.1f ms   95th %7.1f ms\n", len(of), path, ms(of[len(of)/2]), ms(of[len(of)*95/100]))
	}
}

// loadWorker is somebody at work.
type loadWorker struct {
	url   string
	c     *http.Client
	r     *rand.Rand
	times *loadTimes
}

func signedIn(url, login string, seed uint64, times *loadTimes) (*loadWorker, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	w := &loadWorker{url: url, c: &http.Client{Jar: jar, Timeout: time.Minute}, r: rand.New(rand.NewPCG(seed, 1)), times: times}
	body := fmt.Sprintf(`{"login":%q,"password":%q}`, login, loadPassword)
	return w, answered(w.c.Post(url+"/api/sign-in", "application/json", strings.NewReader(body)))
}

// send sends a request and notes how long the answer took.
func (w *loadWorker) send(command bool, req *http.Request) (status int, text []byte, err error) {
	begin := time.Now()
	res, err := w.c.Do(req)
	if err != nil {
		return 0, nil, err
	}
	text, err = io.ReadAll(res.Body)
	_ = res.Body.Close()
	w.times.add(command, req.URL.Path, time.Since(begin))
	return res.StatusCode, text, err
}

// read asks for a page.
func (w *loadWorker) read(path string, into any) error {
	req, err := http.NewRequest(http.MethodGet, w.url+path, http.NoBody)
	if err != nil {
		return err
	}
	status, text, err := w.send(false, req)
	if err != nil || status == http.StatusNotFound { // a colleague was quicker
		return err
	}
	if status != http.StatusOK {
		return fmt.Errorf("%s: %d %s", path, status, text)
	}
	if into == nil {
		return nil
	}
	return json.Unmarshal(text, into)
}

// do sends a command. A refusal is no error.
func (w *loadWorker) do(path string, ask any) error {
	body, err := json.Marshal(map[string]any{"ask": ask})
	if err != nil {
		return err
	}
	req, err := http.NewRequest(http.MethodPost, w.url+path, bytes.NewReader(body))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Idempotency-Key", uuid.NewString())
	status, text, err := w.send(true, req)
	switch {
	case err != nil:
		return err
	case status == http.StatusConflict, status == http.StatusUnprocessableEntity, status == http.StatusNotFound:
		w.times.refuse()
	case status != http.StatusOK:
		return fmt.Errorf("%s: %d %s", path, status, text)
	}
	return nil
}

// loadLine is what the driver needs of an order line.
type loadLine struct {
	ID      int64
	Order   string
	SKU     string
	Free    int64
	Version int64
	At      struct{ Open, Allocated int64 }
}

// coordinate allocates a line and releases what is allocated on its order; now and then it looks at other pages, promises, or puts
// an order on hold and lifts that.
func (w *loadWorker) coordinate() error {
	var open struct{ Lines []loadLine }
	if err := errors.Join(w.read("/api/strip", nil), w.read(fmt.Sprintf("/api/open?only=item%%3DX-%05d", w.r.IntN(3000)), &open)); err != nil {
		return err
	}
	if len(open.Lines) == 0 {
		return nil
	}
	l := open.Lines[w.r.IntN(len(open.Lines))]
	if q := min(l.At.Open, l.Free); q > 0 {
		if err := w.do(
			"/api/allocate", map[string]any{"lines": []any{map[string]any{"line": l.ID, "qty": q, "seen": l.Version}}},
		); err != nil {
			return err
		}
	}
	var order struct {
		Version int64
		Lines   []loadLine
	}
	if err := w.read("/api/orders/"+l.Order, &order); err != nil {
		return err
	}
	var lines []any
	for _, x := range order.Lines {
		if x.At.Allocated > 0 {
			lines = append(lines, map[string]any{"line": x.ID, "qty": x.At.Allocated, "seen": x.Version})
		}
	}
	if len(lines) > 0 {
		if err := w.do("/api/release", map[string]any{"lines": lines}); err != nil {
			return err
		}
	}
	switch w.r.IntN(8) {
	case 0:
		return w.read("/api/promise?qty=20&sku="+l.SKU, nil)
	case 1:
		return errors.Join(w.read("/api/orders?sort=wanted", nil), w.read("/api/search?q="+l.Order, nil))
	case 2:
		return errors.Join(
			w.do("/api/hold", map[string]any{"order": l.Order, "kind": "coordinator", "note": "asked to wait"}),
			w.do("/api/lift", map[string]any{"order": l.Order, "kind": "coordinator"}),
		)
	}
	return nil
}

// pick confirms some rows of a pick list, packs an order, and sends a shipment off.
func (w *loadWorker) pick() error {
	var floor struct{ Lists []struct{ Number string } }
	if err := w.read("/api/pick-lists", &floor); err != nil {
		return err
	}
	if len(floor.Lists) > 0 {
		var list struct {
			Tasks []struct{ ID, Due int64 }
		}
		if err := w.read("/api/pick-lists/"+floor.Lists[w.r.IntN(len(floor.Lists))].Number, &list); err != nil {
			return err
		}
		var rows []any
		for _, t := range list.Tasks {
			if t.Due > 0 && len(rows) < 10 {
				rows = append(rows, map[string]any{"task": t.ID, "qty": t.Due, "seen": t.Due})
			}
		}
		if len(rows) > 0 {
			if err := w.do("/api/pick", rows); err != nil {
				return err
			}
		}
	}
	if err := w.pack(); err != nil {
		return err
	}
	var docks struct {
		Shipments []struct {
			Number, Waits, State string
			Units                int64
		}
	}
	if err := w.read("/api/shipments", &docks); err != nil {
		return err
	}
	for _, x := range docks.Shipments {
		if x.Waits == "" && x.State == "packed" && w.r.IntN(4) == 0 {
			return w.do("/api/dispatch", []any{map[string]any{"number": x.Number, "seen": x.Units}})
		}
	}
	return nil
}

func (w *loadWorker) pack() error {
	var packing struct {
		Jobs []struct {
			Order, Warehouse string
			Lines            []struct{ ID, Picked int64 }
		}
	}
	if err := w.read("/api/packing", &packing); err != nil || len(packing.Jobs) == 0 {
		return err
	}
	job := packing.Jobs[w.r.IntN(len(packing.Jobs))]
	var contents []any
	for _, l := range job.Lines {
		if l.Picked > 0 {
			contents = append(contents, map[string]any{"line": l.ID, "qty": l.Picked})
		}
	}
	if len(contents) == 0 {
		return nil
	}
	return w.do("/api/pack", map[string]any{
		"order": job.Order, "warehouse": job.Warehouse,
		"packages": []any{map[string]any{"kind": "carton", "weight_g": 900, "contents": contents}},
	})
}
