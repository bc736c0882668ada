package api

import (
	"strconv"
	"time"

	"github.com/gofiber/fiber/v2"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promauto"
)

var requests = promauto.NewHistogramVec(prometheus.HistogramOpts{
	Name: "ambrosa_http_request_seconds", Help: "Time to answer, by method, route and status.",
	Buckets: []float64{.005, .02, .1, .5, 2, 10},
}, []string{"method", "route", "status"})

func measure(c *fiber.Ctx) error {
	begun := time.Now()
	err := c.Next()
	status := c.Response().StatusCode()
	if f, ok := err.(*fiber.Error); ok {
		status = f.Code
	}
	requests.WithLabelValues(c.Method(), c.Route().Path, strconv.Itoa(status)).Observe(time.Since(begun).Seconds())
	return err
}
