package dbtest

import (
	"bytes"
	"io"
	"net"
	"net/url"
	"sync"
	"sync/atomic"
	"testing"
)

// Wire is the way to a database, which can be cut or hold everything up.
type Wire struct {
	lose   atomic.Int64
	mu     sync.Mutex
	frozen chan struct{} // closed while nothing is held up
}

// committed is how the server says that a transaction has been committed: CommandComplete, tag COMMIT
// (PostgreSQL's documentation, Frontend/Backend Protocol, Message Formats).
var committed = []byte("C\x00\x00\x00\x0bCOMMIT\x00")

// Through returns the URL of a database by way of a wire, until the test ends.
func Through(t testing.TB, to string) (string, *Wire) {
	t.Helper()
	u, err := url.Parse(to)
	if err != nil {
		t.Fatal(err)
	}
	server := u.Host
	ear, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	w := &Wire{frozen: make(chan struct{})}
	close(w.frozen)
	t.Cleanup(func() { _ = ear.Close(); w.Thaw() })
	go func() {
		for {
			client, err := ear.Accept()
			if err != nil {
				return
			}
			go w.join(client, server)
		}
	}()
	u.Host = ear.Addr().String()
	return u.String(), w
}

// LoseCommits lets the next n commits happen without anybody hearing of it: the connection breaks.
func (w *Wire) LoseCommits(n int64) { w.lose.Store(n) }

// Lost says how many commits are still to be lost.
func (w *Wire) Lost() int64 { return w.lose.Load() }

// Freeze holds everything up, in both directions.
func (w *Wire) Freeze() {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.frozen = make(chan struct{})
}

// Thaw lets everything go on.
func (w *Wire) Thaw() {
	w.mu.Lock()
	defer w.mu.Unlock()
	select {
	case <-w.frozen:
	default:
		close(w.frozen)
	}
}

func (w *Wire) wait() {
	w.mu.Lock()
	open := w.frozen
	w.mu.Unlock()
	<-open
}

func (w *Wire) join(client net.Conn, to string) {
	server, err := net.Dial("tcp", to)
	if err != nil {
		_ = client.Close()
		return
	}
	cut := func() { _ = client.Close(); _ = server.Close() }
	go func() {
		defer cut()
		w.carry(server, client, false)
	}()
	defer cut()
	w.carry(client, server, true)
}

func (w *Wire) carry(to io.Writer, from io.Reader, answers bool) {
	for b := make([]byte, 64<<10); ; {
		n, err := from.Read(b)
		if err != nil {
			return
		}
		w.wait()
		if answers && bytes.Contains(b[:n], committed) && w.lose.Add(-1) >= 0 {
			return
		}
		if _, err := to.Write(b[:n]); err != nil {
			return
		}
	}
}
