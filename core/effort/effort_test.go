package effort

import (
	"testing"
	"time"
)

func TestSpared(t *testing.T) {
	for _, c := range []struct {
		job, plan string
		pieces    int64
		all, each time.Duration
	}{{"run", "pairing", 3, 2 * time.Minute, 40 * time.Second}, {"run", "publishing", 2, time.Minute, 30 * time.Second}, {"run", "undo", 9, 0, 0},
		{"take_in", "", 10, time.Minute, 6 * time.Second}, {"tidy_plan", "", 5, 0, 0}, {"run", "hand", -1, 0, 40 * time.Second}} {
		if all, each := Spared(Of(c.job, c.plan), c.pieces); all != c.all || each != c.each {
			t.Errorf("%+v: %v, %v", c, all, each)
		}
	}
}
