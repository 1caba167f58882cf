package api

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"
	"time"

	"journeyman/internal/web"
)

// static serves the built front end. Files under /assets carry a hash in their
// name and are kept for good; every other path is a page of the application.
func static() http.Handler {
	files := web.Files()
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodGet && r.Method != http.MethodHead {
			problem(w, http.StatusMethodNotAllowed, "Only GET is answered here.")
			return
		}
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		data, err := fs.ReadFile(files, name)
		switch {
		case err == nil && strings.HasPrefix(name, "assets/"):
			w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		case err == nil:
			w.Header().Set("Cache-Control", "no-cache")
		case strings.HasPrefix(name, "assets/") || path.Ext(name) != "" && !strings.Contains(name, "/"):
			problem(w, http.StatusNotFound, "There is no file %s.", name)
			return
		default:
			name = "index.html"
			if data, err = fs.ReadFile(files, name); err != nil {
				plainText(w, http.StatusServiceUnavailable, "The pages were not built into this program. Run `make build`.")
				return
			}
			w.Header().Set("Cache-Control", "no-cache")
		}
		w.Header().Add("Vary", "Accept-Encoding")
		if strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") { // it was compressed when it was built
			if small, err := fs.ReadFile(files, name+".gz"); err == nil {
				data = small
				w.Header().Set("Content-Encoding", "gzip")
			}
		}
		if ct := mime.TypeByExtension(path.Ext(name)); ct != "" {
			w.Header().Set("Content-Type", ct)
		}
		sum := sha256.Sum256(data)
		w.Header().Set("ETag", `"`+hex.EncodeToString(sum[:8])+`"`)
		http.ServeContent(w, r, name, time.Time{}, bytes.NewReader(data))
	})
}
