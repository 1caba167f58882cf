package standin

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"sync"
	"time"

	"journeyman/internal/desk/floor"
)

// Printer is a printer that is reached over HTTP (see PrinterClient): it keeps what was printed instead of putting it on paper, the latest
// hundred documents of it. GET / lists them. Like the carrier it can be slow, failing or late: POST /mode {"mode":"slow"}.
type Printer struct {
	Wait time.Duration // how long a slow answer takes; 3 s if 0

	mu     sync.Mutex
	mode   Mode
	jobs   []printed
	times  map[string]int // how often each key was asked for
	lastly int
}

type printed struct {
	Number int       `json:"number"`
	Key    string    `json:"key"`
	Title  string    `json:"title"`
	At     time.Time `json:"at"`
	Bytes  int       `json:"bytes"`
	pdf    []byte
}

const (
	mostKept     = 100
	mostDocument = 256 << 20
)

// PrinterModes are those of a printer.
var PrinterModes = []Mode{Well, Slow, Failing, Late}

// SetMode changes how it behaves.
func (p *Printer) SetMode(m Mode) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.mode = m
}

// Printed says how often a key was asked for; it was printed once. The document is nil if it never was, or is not kept any more.
func (p *Printer) Printed(key string) (times int, pdf []byte) {
	p.mu.Lock()
	defer p.mu.Unlock()
	for _, j := range p.jobs {
		if j.Key == key {
			pdf = j.pdf
		}
	}
	return p.times[key], pdf
}

// ServeHTTP answers.
func (p *Printer) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	switch r.Method + " " + r.URL.Path {
	case "GET /":
		p.mu.Lock()
		defer p.mu.Unlock()
		w.Header().Set("Content-Type", "application/json")
		_ = json.NewEncoder(w).Encode(map[string]any{"mode": p.mode, "printed": p.jobs})
	case "GET /document":
		p.serveDocument(w, r)
	case "POST /mode":
		var ask struct{ Mode Mode }
		if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<10)).Decode(&ask); err != nil {
			w.WriteHeader(http.StatusBadRequest)
			return
		}
		p.SetMode(ask.Mode)
	case "POST /jobs":
		p.print(w, r)
	default:
		w.WriteHeader(http.StatusNotFound)
	}
}

func (p *Printer) serveDocument(w http.ResponseWriter, r *http.Request) {
	number, err := strconv.Atoi(r.URL.Query().Get("number"))
	p.mu.Lock()
	defer p.mu.Unlock()
	for _, j := range p.jobs {
		if err == nil && j.Number == number {
			w.Header().Set("Content-Type", "application/pdf")
			_, _ = w.Write(j.pdf)
			return
		}
	}
	w.WriteHeader(http.StatusNotFound)
}

func (p *Printer) print(w http.ResponseWriter, r *http.Request) {
	key := r.Header.Get("Idempotency-Key")
	p.mu.Lock()
	mode := p.mode
	p.mu.Unlock()
	if mode == Failing {
		w.WriteHeader(http.StatusServiceUnavailable)
		return
	}
	pdf, err := io.ReadAll(http.MaxBytesReader(w, r.Body, mostDocument))
	if err != nil || key == "" || !bytes.HasPrefix(pdf, []byte("%PDF-")) {
		w.WriteHeader(http.StatusBadRequest)
		return
	}
	if mode == Slow {
		pause(r, p.Wait)
	}
	p.keep(key, r.Header.Get("Title"), pdf)
	if mode == Late {
		pause(r, time.Hour) // until the client is gone
	}
}

// pause waits, 3 s if nothing is said, or until whoever asked is gone.
func pause(r *http.Request, d time.Duration) {
	if d <= 0 {
		d = 3 * time.Second
	}
	select {
	case <-r.Context().Done():
	case <-time.After(d):
	}
}

// keep prints a document, once for each key.
func (p *Printer) keep(key, title string, pdf []byte) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.times == nil {
		p.times = map[string]int{}
	}
	p.times[key]++
	if p.times[key] > 1 {
		return
	}
	p.lastly++
	p.jobs = append(p.jobs, printed{p.lastly, key, title, time.Now().UTC(), len(pdf), pdf})
	if len(p.jobs) > mostKept {
		p.jobs = p.jobs[1:]
	}
}

// PrinterClient reaches a printer over HTTP at a URL such as http://127.0.0.1:8091.
type PrinterClient struct {
	URL  string
	HTTP *http.Client // http.DefaultClient if nil; how long it waits is for the caller's context to say
}

// Print has a document printed.
func (c PrinterClient) Print(ctx context.Context, doc floor.Document) error {
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, c.URL+"/jobs", bytes.NewReader(doc.PDF))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/pdf")
	req.Header.Set("Idempotency-Key", doc.Key)
	req.Header.Set("Title", doc.Title)
	client := c.HTTP
	if client == nil {
		client = http.DefaultClient
	}
	res, err := client.Do(req)
	if err != nil {
		return err
	}
	defer func() { _ = res.Body.Close() }()
	if res.StatusCode != http.StatusOK {
		return fmt.Errorf("the printer answered %s", res.Status)
	}
	return nil
}
