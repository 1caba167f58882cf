package api

import (
	"bytes"
	"compress/gzip"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"journeyman/internal/web"
)

func TestOnlyPagesFallBackToTheApplication(t *testing.T) {
	for _, c := range []struct {
		method, path string
		code         int
		says         string
	}{
		{"GET", "/assets/none-1234.js", 404, "There is no file assets/none-1234.js"},
		{"GET", "/favicon.gif", 404, "There is no file favicon.gif"},
		{"POST", "/orders", 405, "Only GET"},
		{"GET", "/assets/../../../etc/passwd", 404, ""}, // whatever the path, it stays among the pages
	} {
		w := httptest.NewRecorder()
		r := httptest.NewRequest(c.method, "/", nil)
		r.URL.Path = c.path
		static().ServeHTTP(w, r)
		if c.path == "/assets/../../../etc/passwd" {
			if strings.Contains(w.Body.String(), "root:") {
				t.Error("a file of the machine was served")
			}
			continue
		}
		if w.Code != c.code || !strings.Contains(w.Body.String(), c.says) {
			t.Errorf("%s %s: %d %s", c.method, c.path, w.Code, w.Body)
		}
		if ct := w.Header().Get("Content-Type"); ct != "application/problem+json" {
			t.Errorf("%s %s is answered as %s", c.method, c.path, ct)
		}
	}
}

// What was compressed when it was built is sent so to whoever takes it, and as it is to others.
func TestFilesAreSentAsTheyWereCompressed(t *testing.T) {
	files, err := fs.Glob(web.Files(), "assets/*.js.gz")
	if err != nil || len(files) == 0 {
		t.Skip("the front end was not built into this program")
	}
	name := "/" + strings.TrimSuffix(files[0], ".gz")
	for encoding, want := range map[string]string{"gzip, br": "gzip", "": ""} {
		w := httptest.NewRecorder()
		r := httptest.NewRequest("GET", name, nil)
		r.Header.Set("Accept-Encoding", encoding)
		static().ServeHTTP(w, r)
		if got := w.Header().Get("Content-Encoding"); w.Code != 200 || got != want || w.Header().Get("Vary") != "Accept-Encoding" {
			t.Errorf("asked with %q: %d, %q", encoding, w.Code, got)
		}
		if ct := w.Header().Get("Content-Type"); !strings.HasPrefix(ct, "text/javascript") {
			t.Errorf("asked with %q: %s", encoding, ct)
		}
		text := io.Reader(w.Body)
		if want != "" {
			if text, err = gzip.NewReader(w.Body); err != nil {
				t.Fatal(err)
			}
		}
		plain, err := fs.ReadFile(web.Files(), strings.TrimPrefix(name, "/"))
		if is, e := io.ReadAll(text); err != nil || e != nil || !bytes.Equal(is, plain) {
			t.Errorf("asked with %q: %d bytes in place of %d, %v, %v", encoding, len(is), len(plain), err, e)
		}
	}
}

func TestAPanicIsAnAnswerAndALineInTheLog(t *testing.T) {
	var log strings.Builder
	s := &Server{Options: Options{Log: slog.New(slog.NewTextHandler(&log, nil))}}
	h := s.recovered(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic("a fault of ours") }))
	w := httptest.NewRecorder()
	h.ServeHTTP(w, httptest.NewRequest("GET", "/api/strip", nil))
	if w.Code != 500 || !strings.Contains(w.Body.String(), "Look whether it was done") ||
		strings.Contains(w.Body.String(), "a fault of ours") {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	if !strings.Contains(log.String(), "a fault of ours") || !strings.Contains(log.String(), "static_test.go") {
		t.Error("the log does not say what and where")
	}
	// A client that went away is nobody's fault.
	defer func() {
		if recover() != http.ErrAbortHandler {
			t.Error("an aborted request was answered")
		}
	}()
	s.recovered(
		http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic(http.ErrAbortHandler) }),
	).ServeHTTP(w, httptest.NewRequest("GET", "/", nil))
}
