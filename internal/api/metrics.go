package api

import (
	"context"
	"net/http"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"example.org/kavlo/internal/workspace"
)

// metrics are what /metrics tells, in the Prometheus text format.
type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
}

func newMetrics(d *workspace.Workspace) *metrics {
	m := &metrics{registry: prometheus.NewRegistry(), requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "kavlo_request_seconds", Help: "Time taken by requests, by route and status.", Buckets: []float64{.001, .005, .02, .1, .5, 2, 10},
	}, []string{"method", "route", "status"})}
	gauge := func(name, help string, read func() float64) prometheus.Collector {
		return prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, read)
	}
	m.registry.MustRegister(m.requests,
		gauge("kavlo_rows", "Rows in all trackers.", func() float64 {
			n := 0
			for _, t := range d.State().Trackers() {
				for i := range t.Tabs {
					n += t.Count(t.Tabs[i].ID)
				}
			}
			return float64(n)
		}),
		gauge("kavlo_journal_number", "Number of the newest change set.", func() float64 { return float64(d.Seq()) }),
		gauge("kavlo_mails_waiting", "Mails in the outbox that have not gone out.", func() float64 {
			ctx, cancel := context.WithTimeout(context.Background(), time.Second)
			defer cancel()
			n, err := d.Store().Waiting(ctx)
			if err != nil {
				return -1
			}
			return float64(n)
		}))
	return m
}

func (m *metrics) handler() http.Handler {
	return promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{})
}

// methods are those by which requests are counted.
var methods = []string{http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete, http.MethodOptions}
