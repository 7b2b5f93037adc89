// Package web serves Gavrik over HTTP: a JSON interface under /api, described by
// OpenAPI, and the front end.
package web

import (
	"context"
	"crypto/subtle"
	"io/fs"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"gavrik/internal/app"
	"gavrik/internal/deliver"
	"gavrik/internal/people"
)

// Options are what a server is made of; those without a note are required.
type Options struct {
	*app.App
	Deliver *deliver.Service
	Files   fs.FS // the front end
	// Beside are pages of others that are served beside Gavrik's, by their paths.
	Beside map[string]http.Handler
	// SecureCookies keeps cookies, and the browsers that have come once, to HTTPS. Set it
	// unless serving on loopback.
	SecureCookies bool
	// MetricsToken lets who sends it read /metrics and the interface's description, beside
	// Site.Inner; OpenMetrics lets everybody.
	MetricsToken string
	OpenMetrics  bool
	// Proxies are those before the server that say where requests come from.
	Proxies Proxies
	// Provider, if set, signs people in beside passwords.
	Provider *people.Provider
}

// maxBody bounds a request: room for 100,000 pasted values.
const maxBody = 8 << 20

// server is what stands around the operations: the routes, and what every request goes through.
type server struct {
	Options
	metrics *metrics
}

// Site is a served Gavrik.
type Site struct {
	// Handler is for people and programs.
	http.Handler
	// Inner is for whoever runs it: metrics, the interface's description, and the probes. It
	// belongs on a listener that only they reach.
	Inner http.Handler
}

// New wires the routes.
func New(o Options) *Site {
	if o.App == nil || o.Deliver == nil || o.Files == nil {
		panic("web: New needs an application, deliveries and files")
	}
	s := &server{Options: o, metrics: newMetrics(o)}
	known, err := lru.New[string, remembered](mostRemembered)
	if err != nil {
		panic("web: " + err.Error())
	}
	at := &entrance{
		service: service{o.App},
		deliver: o.Deliver, desk: people.NewDesk(o.Store), provider: o.Provider, secureCookies: o.SecureCookies,
		remembered: known,
	}

	inner := chi.NewMux()
	inner.Use(withNumber, s.recovered)
	s.probes(inner)
	inner.Method(http.MethodGet, "/metrics", promhttp.HandlerFor(s.metrics.registry, promhttp.HandlerOpts{}))
	inner.Get("/api/openapi.json", describe)

	r := chi.NewMux()
	r.Use(
		s.clientAddress, withNumber, s.logged, s.recovered, s.headers, cleanAddress, s.deadline,
		middleware.Compress(5),
	)
	s.probes(r)
	for _, path := range []string{"/metrics", "/api/openapi.json"} {
		r.Method(http.MethodGet, path, s.guarded(inner))
	}
	r.Group(func(r chi.Router) {
		r.Use(crossOrigin().Handler, at.withCookies)
		register(humachi.New(r, config()), at)
		r.Get(deliver.StopPath+"{token}", s.stop)
		r.Post(deliver.StopPath+"{token}", s.stop)
		if o.Provider != nil {
			r.Get(providerSignIn, at.toProvider)
			r.Get(ProviderReturn, at.fromProvider)
		}
	})
	for path, h := range o.Beside {
		r.Handle(path, h)
		r.Handle(path+"/*", h)
	}
	r.NotFound(s.frontEnd(o.Files))
	return &Site{Handler: r, Inner: inner}
}

// probes are what a supervisor asks: whether the process stands, and whether it can do
// its work.
func (s *server) probes(r chi.Router) {
	// the caller may have gone
	r.Get("/livez", func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("ok\n")) })
	r.Get(readyPath, s.ready)
	r.Get(healthPath, s.ready)
}

// Where it is asked whether the server can do its work.
const (
	readyPath  = "/readyz"
	healthPath = "/healthz"
)

// ready says whether the server can do its work. With a silent database it can answer
// from memory, and not much more.
func (s *server) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), pinging)
	defer cancel()
	if err := s.Store.Ping(ctx); err != nil {
		s.Log.Error("ready", "id", requestNumber(r.Context()), "error", err)
		http.Error(w, "the database does not answer", http.StatusServiceUnavailable)
		return
	}
	_, _ = w.Write([]byte("ok\n")) // the caller may have gone
}

// pinging is how long the database may take to say that it is there.
const pinging = 2 * time.Second

// guarded lets through who holds the token of those who run the server, or everybody, if
// that is asked for.
func (s *server) guarded(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		token, _ := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
		if !s.OpenMetrics &&
			(s.MetricsToken == "" || subtle.ConstantTimeCompare([]byte(token), []byte(s.MetricsToken)) != 1) {
			problem(w, http.StatusNotFound, "There is nothing at this address.")
			return
		}
		next.ServeHTTP(w, r)
	})
}

// describe answers with the interface's description.
func describe(w http.ResponseWriter, _ *http.Request) {
	text, err := OpenAPI()
	if err != nil {
		problem(w, http.StatusInternalServerError, "The description cannot be written.")
		return
	}
	w.Header().Set("Content-Type", "application/json")
	_, _ = w.Write(text) // the caller may have gone
}

// config describes the interface.
func config() huma.Config {
	// Lists are sent as [], never as null.
	huma.DefaultArrayNullable = false
	huma.ValidateStrictCasing = true // as JSON Schema has it
	c := huma.DefaultConfig("Gavrik", "1")
	c.OpenAPIPath, c.DocsPath, c.SchemasPath = "", "", ""
	c.Info.Description = "Views over application records."
	plain := huma.DefaultJSONFormat
	plain.Unmarshal = readJSON
	c.Formats = map[string]huma.Format{"application/json": plain, "json": plain}
	// A $schema in every answer would be noise to the front end.
	c.CreateHooks = nil
	return c
}
