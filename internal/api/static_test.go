package api

import (
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
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
	s.recovered(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic(http.ErrAbortHandler) })).ServeHTTP(w, httptest.NewRequest("GET", "/", nil))
}
