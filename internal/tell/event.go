package tell

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"ambrosa/core/effort"
	"ambrosa/core/message"
	"ambrosa/internal/store/query"
)

// Event is what is told of something that ended.
type Event struct {
	ID      string    `json:"event"` // the same for all who are told, however often
	At      time.Time `json:"at"`
	Kind    string    `json:"kind"`
	Subject int64     `json:"subject"`
	Title   string    `json:"title"`
	State   string    `json:"state"` // done, stopped, failed
	Person  string    `json:"person"`
	Done    int64     `json:"done"`
	Unit    string    `json:"unit"`
	Left    int64     `json:"left_alone"`
	Seconds int64     `json:"seconds"` // that it took
	// Spared are the seconds that the same takes by hand, reckoned at Each for a piece; 0 where nobody does it by hand.
	Spared int64    `json:"spared_seconds"`
	Each   int64    `json:"reckoned_seconds_each"`
	Notes  []string `json:"notes"`
	Link   string   `json:"link"`
}

func (t *Tell) event(ctx context.Context, o query.NextOutgoingRow) (e Event, err error) {
	site, err := t.Site(ctx)
	if err != nil {
		return e, err
	}
	e = Event{ID: o.Event, At: o.At.UTC(), Kind: o.Kind, Subject: o.Subject, Title: line(o.Title), State: o.State, Person: o.Person, Done: o.Done, Unit: o.Unit, Left: o.LeftAlone,
		Notes: []string{}, Link: strings.TrimRight(site, "/") + place(o.Kind, o.Subject)}
	if o.BeganAt != nil {
		e.Seconds = max(0, int64(o.At.Sub(*o.BeganAt).Seconds()))
	}
	spared, each := effort.Spared(effort.Of(o.Kind, o.Plan), o.Done-o.LeftAlone)
	e.Spared, e.Each = int64(spared.Seconds()), int64(each.Seconds())
	var notes []message.Message
	if err := json.Unmarshal(o.Notes, &notes); err != nil {
		return e, err
	}
	for _, n := range notes {
		e.Notes = append(e.Notes, line(n.Text()))
	}
	return e, nil
}

// line is a text on one line, without control characters: what becomes a header holds no line end.
func line(text string) string {
	return strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r == '\u2028' || r == '\u2029' {
			return ' '
		}
		return r
	}, strings.ToValidUTF8(text, ""))), " ")
}

// place is where the interface shows what ended.
func place(kind string, subject int64) string {
	switch kind {
	case "run":
		return fmt.Sprintf("/ledger/%d", subject)
	case "worksheet":
		return fmt.Sprintf("/tables/%d", subject)
	case "reconcile":
		return fmt.Sprintf("/gather/%d?show=reconcile", subject)
	case "publishing":
		return fmt.Sprintf("/publish?in=%d", subject)
	case "take_in":
		return fmt.Sprintf("/gather?in=%d", subject)
	}
	return "/"
}

// what are the kinds of work, as people call them.
var what = map[string]string{"run": "Run", "take_in": "Delivery", "worksheet": "Table", "reconcile": "Comparing with the drive", "publishing": "Looking what would go to", "tidy_plan": "Plan of Tidy"}

// ended is how work ended, as people say it.
var ended = map[string]string{"done": "is done", "stopped": "was stopped", "failed": "failed"}

// subjectLine says it in one line.
func (e Event) subjectLine() string {
	kind := what[e.Kind]
	if kind == "" {
		kind = "Work"
	}
	return fmt.Sprintf("%s “%s” %s", kind, e.Title, ended[e.State])
}

// lines say the rest, each a sentence.
func (e Event) lines() (all []string) {
	all = append(all, fmt.Sprintf("%d %s done in %s.", e.Done, e.Unit, duration(e.Seconds)))
	if e.Left > 0 {
		all = append(all, fmt.Sprintf("%d were left alone. The page says why.", e.Left))
	}
	all = append(all, e.Notes...)
	if e.Spared > 0 && e.State == "done" {
		all = append(all, fmt.Sprintf("By hand this takes about %s: reckoned at %d seconds each.", duration(e.Spared), e.Each))
	}
	return all
}

// duration is a time as people say it, to two units.
func duration(seconds int64) string {
	switch {
	case seconds < 60:
		return fmt.Sprintf("%d s", seconds)
	case seconds < 3600:
		return fmt.Sprintf("%d min %d s", seconds/60, seconds%60)
	}
	return fmt.Sprintf("%d h %d min", seconds/3600, seconds%3600/60)
}
