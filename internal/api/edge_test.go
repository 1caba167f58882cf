package api

import (
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/go-chi/chi/v5/middleware"
)

// What reaches the operations is text, whatever was sent.
func FuzzQueries(f *testing.F) {
	for _, q := range []string{
		"", "q=a&sort=-wanted", "q=%00", "q=%ff", "q=\xff", "q=%ED%A0%80", "a;b=c", "%zz", "=&=&",
		"q=" + strings.Repeat("%20", 100),
	} {
		f.Add("/api/orders/SO-1", q)
	}
	f.Add("/api/orders/\xff", "")
	f.Add("/api/orders/\x00", "")
	legible := readable(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		for name, values := range r.URL.Query() {
			for _, s := range append(values, name, r.URL.Path) {
				if !utf8.ValidString(s) || strings.ContainsRune(s, 0) {
					panic("not text: " + s)
				}
			}
		}
	}))
	f.Fuzz(func(t *testing.T, path, query string) {
		w := httptest.NewRecorder()
		legible.ServeHTTP(w, &http.Request{Method: "GET", URL: &url.URL{Path: path, RawQuery: query}, Header: http.Header{}})
		if w.Code != http.StatusOK && w.Code != http.StatusUnprocessableEntity {
			t.Errorf("%q?%q: %d", path, query, w.Code)
		}
	})
}

func TestARequestNumberFromOutsideIsPlainAndShort(t *testing.T) {
	for given, want := range map[string]string{
		"abc-123": "abc-123", "<script>": "", strings.Repeat("a", 200): "", "a b": "", "": "",
	} {
		var got string
		h := requestID(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { got = middleware.GetReqID(r.Context()) }))
		r := httptest.NewRequest("GET", "/", nil)
		r.Header.Set("X-Request-Id", given)
		h.ServeHTTP(httptest.NewRecorder(), r)
		if want != "" && got != want || want == "" && (got == given || got == "" || len(got) > 64) {
			t.Errorf("%q is known as %q", given, got)
		}
	}
}
