package web

import (
	"encoding/json"
	"errors"
	"net/http"
	"runtime/debug"
	"strings"
	"time"

	"github.com/go-chi/chi/v5/middleware"
)

// logged writes one line for each request, and counts it.
func (s *server) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		started := time.Now()
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		took := time.Since(started)
		s.metrics.requests.WithLabelValues(method(r.Method), status(ww.Status())).Observe(took.Seconds())
		s.Log.Info("request", "id", requestNumber(r.Context()), "method", r.Method, "path", r.URL.Path,
			"status", ww.Status(), "bytes", ww.BytesWritten(), "took", took)
	})
}

// recovered answers a panic with a problem that holds nothing of the stack, which
// goes to the log.
func (s *server) recovered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			what := recover()
			if what == nil {
				return
			}
			if err, ok := what.(error); ok && errors.Is(err, http.ErrAbortHandler) {
				panic(what)
			}
			id := requestNumber(r.Context())
			s.Log.Error("panic", "id", id, "what", what, "stack", string(debug.Stack()))
			problem(w, http.StatusInternalServerError, internalFault(r.Context()))
		}()
		next.ServeHTTP(w, r)
	})
}

// headers keep the pages from being framed, sniffed or made to load from elsewhere.
func (s *server) headers(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		// Vue and Headless UI set style attributes; scripts stay strict.
		h.Set(
			"Content-Security-Policy",
			"default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'",
		)
		h.Set("X-Content-Type-Options", "nosniff")
		if s.SecureCookies {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		h.Set("Referrer-Policy", "same-origin")
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		next.ServeHTTP(w, r)
	})
}

// crossOrigin refuses writes that another site's page sends.
func crossOrigin() *http.CrossOriginProtection {
	p := http.NewCrossOriginProtection()
	p.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		problem(
			w, http.StatusForbidden,
			"This request came from another site and was refused. Open Gavrik itself and try again.",
		)
	}))
	return p
}

// problem answers outside the operations, in their form.
func problem(w http.ResponseWriter, code int, detail string) {
	writeProblem(w, &ErrorModel{Status: code, Title: http.StatusText(code), Detail: detail})
}

func writeProblem(w http.ResponseWriter, p *ErrorModel) {
	w.Header().Set("Content-Type", p.ContentType(""))
	w.WriteHeader(p.Status)
	_ = json.NewEncoder(w).Encode(p) // the caller may have gone
}
