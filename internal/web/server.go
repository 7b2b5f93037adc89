// Package web serves Gavrik over HTTP: a JSON interface under /api, described by
// OpenAPI, and the front end.
package web

import (
	"context"
	"io/fs"
	"log/slog"
	"net/http"
	"sync/atomic"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"golang.org/x/sync/singleflight"

	"gavrik/internal/people"
	"gavrik/internal/scheduler"
	"gavrik/internal/store"
)

// Options are what a server is made of; those without a note are required.
type Options struct {
	Store     *store.Store
	Workspace *Workspace
	Files     fs.FS // the front end
	Log       *slog.Logger
	// SecureCookies keeps cookies, and the browsers that have come once, to HTTPS. Set it
	// unless serving on loopback.
	SecureCookies bool
	// Proxies are those before the server that say where requests come from.
	Proxies Proxies
	// Provider, if set, signs people in beside passwords.
	Provider *people.Provider
	// Scheduler shares the machine among requests. Nil means one with its defaults.
	Scheduler *scheduler.Scheduler
	// ShowNewFields shows restricted readers what came with a later load, or was renamed,
	// without an administrator's word. Usually it is kept from them until then.
	ShowNewFields bool
}

// maxBody bounds a request: room for 100,000 pasted values.
const maxBody = 8 << 20

// server holds what the operations share.
type server struct {
	Options
	desk    *people.Desk
	metrics *metrics
	// definitions are the ones read last; see ground.
	definitions atomic.Pointer[defined]
	reading     singleflight.Group // of definitions, by their stamp
	// remembered are sessions known a moment ago, for while the database is silent.
	remembered *lru.Cache[string, remembered]
}

// New wires the routes.
func New(o Options) http.Handler {
	if o.Store == nil || o.Workspace == nil || o.Files == nil || o.Log == nil {
		panic("web: New needs a store, a workspace, files and a log")
	}
	if o.Scheduler == nil {
		o.Scheduler = scheduler.New(scheduler.Options{})
	}
	s := &server{Options: o, desk: people.NewDesk(o.Store), metrics: newMetrics(o.Workspace)}
	o.Workspace.taken = s.taken
	s.taken(context.Background(), nil, o.Workspace.held.Load())
	var err error
	if s.remembered, err = lru.New[string, remembered](mostRemembered); err != nil {
		panic("web: " + err.Error())
	}

	r := chi.NewMux()
	r.Use(s.clientAddress, numbered, s.logged, s.recovered, s.headers, cleanAddress, s.deadline, middleware.Compress(5))
	r.Get("/healthz", s.health)
	r.Method(http.MethodGet, "/metrics", promhttp.HandlerFor(s.metrics.registry, promhttp.HandlerOpts{}))
	r.Group(func(r chi.Router) {
		r.Use(crossOrigin().Handler, s.hears)
		s.register(humachi.New(r, config()))
		if o.Provider != nil {
			r.Get(elsewhere, s.goElsewhere)
			r.Get(Back, s.comeBack)
		}
	})
	r.NotFound(frontEnd(o.Files))
	return r
}

// config describes the interface.
func config() huma.Config {
	// Lists are sent as [], never as null.
	huma.DefaultArrayNullable = false
	c := huma.DefaultConfig("Gavrik", "1")
	c.OpenAPIPath, c.DocsPath, c.SchemasPath = "/api/openapi", "", "/api/schemas"
	c.Info.Description = "Views over application records."
	plain := huma.DefaultJSONFormat
	plain.Unmarshal = readJSON
	c.Formats = map[string]huma.Format{"application/json": plain, "json": plain}
	// A $schema in every answer would be noise to the front end.
	c.CreateHooks = nil
	return c
}

// register adds every operation. A server without a store can be registered to
// read the description, not to serve.
func (s *server) register(api huma.API) {
	api.UseMiddleware(s.signedIn(api))
	s.registerSession(api)
	s.registerSignIns(api)
	s.registerCatalog(api)
	s.registerRun(api)
	s.registerViews(api)
	s.registerFormula(api)
	s.registerDefinitions(api)
	s.registerDrafts(api)
	s.registerLooks(api)
	s.registerKeeping(api)
	s.registerSharing(api)
	s.registerDesk(api)
	s.registerFind(api)
	s.registerPeople(api)
	s.registerGroups(api)
	s.registerNewFields(api)
	s.registerAudit(api)
	s.registerTokens(api)
}

func (s *server) health(w http.ResponseWriter, r *http.Request) {
	if err := s.Store.Ping(r.Context()); err != nil {
		s.Log.Error("health", "error", err)
		http.Error(w, "the database does not answer", http.StatusServiceUnavailable)
		return
	}
	_, _ = w.Write([]byte("ok\n")) // the caller may have gone
}
