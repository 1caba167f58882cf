package api

import (
	"net"
	"net/http"
	"net/netip"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/go-chi/chi/v5/middleware"
)

// The edge is what every request passes first: who it is from and for, what it may be made of, and how long it may take.

// plainID is a name for a request that somebody outside may give it: it stands in logs and answers as it is.
var plainID = regexp.MustCompile(`^[A-Za-z0-9._:-]{1,64}$`)

// requestID keeps the name that a request brought, if it is a plain one; else it gets one of ours.
func requestID(next http.Handler) http.Handler {
	named := middleware.RequestID(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !plainID.MatchString(r.Header.Get(middleware.RequestIDHeader)) {
			r.Header.Del(middleware.RequestIDHeader)
		}
		named.ServeHTTP(w, r)
	})
}

// plainHeader is a header's text without what does not belong into one, and not longer than so many bytes.
func plainHeader(s string, most int) string {
	s = strings.ToValidUTF8(strings.Map(func(c rune) rune {
		if c < ' ' || c == 0x7f {
			return -1
		}
		return c
	}, s), "")
	if len(s) > most {
		s = strings.ToValidUTF8(s[:most], "")
	}
	return s
}

// addressOf is the address that a request comes from: of those that trusted proxies passed on, the last that is not theirs.
func (s *Server) addressOf(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		host = r.RemoteAddr
	}
	trusted := func(address string) bool {
		ip, err := netip.ParseAddr(address)
		return err == nil && slices.ContainsFunc(s.Proxies, func(p netip.Prefix) bool { return p.Contains(ip.Unmap()) })
	}
	if !trusted(host) {
		return host
	}
	hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for _, hop := range slices.Backward(hops) {
		hop = strings.TrimSpace(hop)
		if _, err := netip.ParseAddr(hop); err != nil {
			break
		}
		if host = hop; !trusted(hop) {
			break
		}
	}
	return host
}

// known refuses a request for a host that is not ours: a page elsewhere may have a name that leads here (DNS rebinding).
func (s *Server) known(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if len(s.Hosts) > 0 {
			host := r.Host
			if h, _, err := net.SplitHostPort(host); err == nil {
				host = h
			}
			if !slices.Contains(s.Hosts, strings.ToLower(strings.Trim(host, "[]"))) {
				problem(
					w, http.StatusMisdirectedRequest,
					"This server does not answer for that host. Set JOURNEYMAN_HOSTS to the names by which it is reached.",
				)
				return
			}
		}
		next.ServeHTTP(w, r)
	})
}

// readable refuses what is not text where text is expected: the database takes neither, and nobody means it.
func readable(next http.Handler) http.Handler {
	ok := func(s string) bool { return utf8.ValidString(s) && !strings.ContainsRune(s, 0) }
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !ok(r.URL.Path) || !ok(r.URL.RawQuery) || len(r.URL.RawQuery) > 8<<10 {
			problem(w, http.StatusUnprocessableEntity, "The address is not text in UTF-8, or is too long.")
			return
		}
		if strings.ContainsRune(r.URL.RawQuery, '%') {
			for name, values := range r.URL.Query() {
				if !ok(name) || !ok(strings.Join(values, "")) {
					problem(w, http.StatusUnprocessableEntity, "What is asked for is not text in UTF-8, or holds a character that is none.")
					return
				}
			}
		}
		next.ServeHTTP(w, r)
	})
}

// answerWithin is how long an answer may take on its way, whatever it is about; what takes longer says so itself.
const answerWithin = 90 * time.Second

// inTime bounds how long reading a request and writing its answer may take.
func inTime(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		rc := http.NewResponseController(w)
		_ = rc.SetReadDeadline(time.Now().Add(30 * time.Second))
		_ = rc.SetWriteDeadline(time.Now().Add(answerWithin))
		next.ServeHTTP(w, r)
	})
}

func (s *Server) secureHeaders(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set(
			"Content-Security-Policy",
			"default-src 'self'; img-src 'self' data:; object-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'",
		)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Permissions-Policy", "accelerometer=(), camera=(), geolocation=(), gyroscope=(), microphone=(), payment=(), usb=()")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		if s.Secure {
			h.Set("Strict-Transport-Security", "max-age=31536000; includeSubDomains")
		}
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		next.ServeHTTP(w, r)
	})
}
