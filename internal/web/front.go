package web

import (
	"fmt"
	"html"
	"net/http"
	"strings"
	"sync/atomic"
)

// Front answers from the first moment on: while the records are loaded, how far that is;
// from then on, the site. The zero Front is starting.
type Front struct {
	// Far says how far the start is, in words.
	Far     func() string
	site    atomic.Pointer[Site]
	leaving atomic.Bool
}

// Leave says to whoever shares requests among servers that this one is about to end, and goes on answering.
func (f *Front) Leave() { f.leaving.Store(true) }

// Open hands over to the site.
func (f *Front) Open(s *Site) { f.site.Store(s) }

// ServeHTTP answers in place of a site that is not there yet.
func (f *Front) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if f.leaving.Load() {
		w.Header().Set("Connection", "close") // the next request goes to another
		if r.URL.Path == readyPath || r.URL.Path == healthPath {
			http.Error(w, "the server is about to end", http.StatusServiceUnavailable)
			return
		}
	}
	if site := f.site.Load(); site != nil {
		site.ServeHTTP(w, r)
		return
	}
	f.starting(w, r)
}

// Inner is ServeHTTP for the listener of its own.
func (f *Front) Inner() http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if site := f.site.Load(); site != nil {
			site.Inner.ServeHTTP(w, r)
			return
		}
		f.starting(w, r)
	})
}

func (f *Front) starting(w http.ResponseWriter, r *http.Request) {
	far := "Gavrik is starting and loads the records: " + f.Far() + "."
	w.Header().Set("Retry-After", "2")
	w.Header().Set("Cache-Control", "no-store")
	switch {
	case r.URL.Path == "/livez":
		_, _ = fmt.Fprintln(w, "ok") // the caller may have gone
	case r.Method == http.MethodGet && strings.Contains(r.Header.Get("Accept"), "text/html"):
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
		w.WriteHeader(http.StatusServiceUnavailable)
		_, _ = fmt.Fprintf(w, `<!doctype html><meta charset="utf-8"><meta http-equiv="refresh" content="2"><title>Gavrik is starting</title>
<body style="font:18px/1.6 serif;background:#f7f4ec;color:#23201b;margin:20vh auto;max-width:34em;padding:0 2em"><p>%s</p><p style="color:#746d61">This page opens by itself when it is done.</p>`, html.EscapeString(far)) // the caller may have gone
	default:
		problem(w, http.StatusServiceUnavailable, far)
	}
}
