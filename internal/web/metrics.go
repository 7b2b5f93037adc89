package web

import (
	"net/http"
	"strconv"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
)

type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
}

func newMetrics(w *Workspace) *metrics {
	m := &metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "gavrik_http_request_seconds", Help: "Time to answer a request.",
			Buckets: prometheus.ExponentialBuckets(0.001, 3, 9),
		}, []string{"method", "status"}),
	}
	rows := prometheus.NewGaugeFunc(prometheus.GaugeOpts{
		Name: "gavrik_records", Help: "Records in memory.",
	}, func() float64 { return float64(w.Rows()) })
	asOf := prometheus.NewGaugeFunc(prometheus.GaugeOpts{
		Name: "gavrik_records_as_of_seconds", Help: "Moment of the records in memory, in Unix time.",
	}, func() float64 { return float64(w.AsOf().Unix()) })
	m.registry.MustRegister(m.requests, w.ran, rows, asOf, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

func newRunHistogram() prometheus.Histogram {
	return prometheus.NewHistogram(prometheus.HistogramOpts{
		Name: "gavrik_run_seconds", Help: "Time to compute a view that was not kept.",
		Buckets: prometheus.ExponentialBuckets(0.0005, 3, 9),
	})
}

// method is a method as a label: what people make up is one label, not one each.
func method(name string) string {
	switch name {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete, http.MethodOptions:
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
