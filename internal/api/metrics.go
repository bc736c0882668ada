package api

import (
	"context"
	"log/slog"
	"strconv"
	"time"

	"ambrosa/internal/store"
	"ambrosa/internal/tidy"

	"github.com/gofiber/fiber/v2"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promauto"
)

// metrics returns what /metrics tells: requests, the queue, the work in the background, the pools of connections, and the program.
func (s *Server) metrics() (*prometheus.Registry, *prometheus.HistogramVec) {
	registry := prometheus.NewRegistry()
	registry.MustRegister(collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), work{s.Store})
	return registry, promauto.With(registry).NewHistogramVec(prometheus.HistogramOpts{
		Name: "ambrosa_http_request_seconds", Help: "Time to answer, by method, route and status.",
		Buckets: []float64{.005, .02, .1, .5, 2, 10},
	}, []string{"method", "route", "status"})
}

// measure stands before everything that answers, so that it sees the status that is sent.
func measure(requests *prometheus.HistogramVec) fiber.Handler {
	return func(c *fiber.Ctx) error {
		begun := time.Now()
		err := c.Next()
		requests.WithLabelValues(c.Method(), c.Route().Path, strconv.Itoa(c.Response().StatusCode())).Observe(time.Since(begun).Seconds())
		return err
	}
}

var (
	queueJobs   = prometheus.NewDesc("ambrosa_queue_jobs", "Work in the queue, by kind and state.", []string{"kind", "state"}, nil)
	jobStates   = prometheus.NewDesc("ambrosa_jobs", "Work in the background, by kind and state.", []string{"kind", "state"}, nil)
	connections = prometheus.NewDesc("ambrosa_pool_connections", "Connections to the database, by pool and state.", []string{"pool", "state"}, nil)
	cleared     = prometheus.NewDesc("ambrosa_cleared_total", "What the clock has cleared in this process, by kind.", []string{"kind"}, nil)
	waits       = prometheus.NewDesc("ambrosa_pool_waits_total", "How often somebody waited for a connection, by pool.", []string{"pool"}, nil)
)

// work counts what the database keeps of work, again each time it is asked.
type work struct{ store *store.Store }

func (w work) Describe(out chan<- *prometheus.Desc) {
	for _, d := range []*prometheus.Desc{queueJobs, jobStates, connections, waits, cleared} {
		out <- d
	}
}

func (w work) Collect(out chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	counts, err := w.store.WorkCounts(ctx)
	if err != nil {
		slog.Warn("counting work for /metrics", "error", err)
	}
	for _, c := range counts {
		n := float64(c.Count)
		switch c.Of {
		case "queue":
			out <- prometheus.MustNewConstMetric(queueJobs, prometheus.GaugeValue, n, c.Kind, c.State)
		case "job":
			out <- prometheus.MustNewConstMetric(jobStates, prometheus.GaugeValue, n, c.Kind, c.State)
		}
	}
	done := tidy.ClearedSoFar()
	for kind, n := range map[string]int64{"plans": done.Plans.Load(), "sessions": done.Sessions.Load(), "uploads": done.Uploads.Load(),
		"deliveries": done.Deliveries.Load()} {
		out <- prometheus.MustNewConstMetric(cleared, prometheus.CounterValue, float64(n), kind)
	}
	for name, stat := range w.store.Pools() {
		out <- prometheus.MustNewConstMetric(connections, prometheus.GaugeValue, float64(stat.AcquiredConns()), name, "busy")
		out <- prometheus.MustNewConstMetric(connections, prometheus.GaugeValue, float64(stat.IdleConns()), name, "idle")
		out <- prometheus.MustNewConstMetric(connections, prometheus.GaugeValue, float64(stat.MaxConns()), name, "most")
		out <- prometheus.MustNewConstMetric(waits, prometheus.CounterValue, float64(stat.EmptyAcquireCount()), name)
	}
}
