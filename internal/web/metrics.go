package web

import (
	"net/http"
	"strconv"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"

	"gavrik/internal/app"
	"gavrik/internal/records"
	"gavrik/internal/scheduler"
	"gavrik/internal/store"
)

type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
}

func newMetrics(o Options) *metrics {
	m := &metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "gavrik_http_request_seconds", Help: "Time to answer a request.",
			Buckets: prometheus.ExponentialBuckets(0.001, 3, 9),
		}, []string{"method", "status"}),
	}
	m.registry.MustRegister(m.requests, o.Workspace.Ran(), collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	m.ofRecords(o.Workspace, o.Following)
	m.ofJobs(o.Scheduler.Stats)
	m.ofDatabase(o.Store)
	return m
}

// gauge registers a number that is looked up when it is asked for.
func (m *metrics) gauge(name, help string, value func() float64) {
	m.registry.MustRegister(prometheus.NewGaugeFunc(
		prometheus.GaugeOpts{Name: "gavrik_" + name, Help: help}, value,
	))
}

// counter is gauge for a number that only grows.
func (m *metrics) counter(name, help string, value func() float64) {
	m.registry.MustRegister(prometheus.NewCounterFunc(
		prometheus.CounterOpts{Name: "gavrik_" + name, Help: help}, value,
	))
}

func (m *metrics) ofRecords(w *app.Workspace, of app.Following) {
	following := func() []records.State {
		if of == nil {
			return nil
		}
		return of.States()
	}
	m.gauge("records", "Records in memory.", func() float64 { return float64(w.Rows()) })
	m.gauge("records_as_of_seconds", "Moment of the records in memory, in Unix time.",
		func() float64 { return float64(w.AsOf().Unix()) })
	m.gauge("refresh_failing", "1 while the last refresh of the records has failed.", func() float64 {
		if w.Stale() != "" {
			return 1
		}
		return 0
	})
	each := func(of func(records.State) float64) func() float64 {
		return func() (all float64) {
			for _, one := range following() {
				all = max(all, of(one))
			}
			return all
		}
	}
	m.gauge(
		"changes_waiting", "Committed transactions that no load has taken yet.",
		each(func(s records.State) float64 { return float64(s.Waiting) }),
	)
	m.gauge(
		"changes_behind_seconds", "How long the first of them has waited.",
		each(func(s records.State) float64 { return s.Behind.Seconds() }),
	)
	m.gauge("sources_streamed", "Sources whose changes come as they are committed.", func() (n float64) {
		for _, one := range following() {
			if one.Streamed {
				n++
			}
		}
		return n
	})
	bytes := func(name string, of func() int64) {
		m.gauge("cache_"+name+"_bytes", "Memory of the kept "+name+".", func() float64 { return float64(of()) })
	}
	bytes("results", func() int64 { n, _, _ := w.Bytes(); return n })
	bytes("selections", func() int64 { _, n, _ := w.Bytes(); return n })
	bytes("restrictions", func() int64 { _, _, n := w.Bytes(); return n })
}

func (m *metrics) ofJobs(stats func() scheduler.Stats) {
	m.gauge("jobs_computing", "Questions that are being computed.", func() float64 {
		return float64(stats().Computing)
	})
	m.gauge("jobs_waiting", "Questions that wait for their turn.", func() float64 {
		return float64(stats().Waiting)
	})
	m.gauge("jobs_bytes", "Memory booked by what is being computed.", func() float64 {
		return float64(stats().Bytes)
	})
	m.counter("jobs_admitted_total", "Turns given.", func() float64 { return float64(stats().Admitted) })
	m.counter("jobs_refused_total", "Questions sent away because a share was used up.",
		func() float64 { return float64(stats().Refused) })
}

func (m *metrics) ofDatabase(s *store.Store) {
	m.gauge("database_connections", "Connections to the database of the state.",
		func() float64 { return float64(s.Connections().TotalConns()) })
	m.gauge("database_connections_busy", "Of them, those in use.",
		func() float64 { return float64(s.Connections().AcquiredConns()) })
}

// method is a method as a label: what people make up is one label, not one each.
func method(name string) string {
	switch name {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete,
		http.MethodOptions:
		return name
	}
	return "other"
}

func status(code int) string {
	if code == 0 {
		code = 200 // nothing was written
	}
	return strconv.Itoa(code)
}
