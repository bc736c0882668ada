package api

import (
	"context"
	"fmt"
	"net/http"
	"time"

	core "ambrosa/core/tidy"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tidy"

	"github.com/danielgtaylor/huma/v2"
)

type binBody struct {
	Pictures []binnedBody `json:"pictures"`
	Next     string       `json:"next,omitempty"`
}

type binnedBody struct {
	PictureCard
	BinnedAt time.Time `json:"binnedAt"`
	GoesAt   time.Time `json:"goesAt" doc:"From when on the clock may delete it."`
}

type breaksBody struct {
	Run   int64     `json:"run"`
	Title string    `json:"title"`
	At    time.Time `json:"at"`
	Lines int32     `json:"lines" doc:"How many of its lines could not be taken back."`
}

type storageBody struct {
	Figures   []storageFigure `json:"figures"`
	Originals int64           `json:"originals" doc:"Bytes of all pictures that are not in the bin."`
	Derived   int64           `json:"derived" doc:"Bytes of all small pictures, as they were counted last; 0 where nobody counted."`
	Bin       int64           `json:"bin"`
}

type storageFigure struct {
	By       string `json:"by" enum:"category,format,month,source"`
	Name     string `json:"name"`
	Pictures int64  `json:"pictures"`
	Bytes    int64  `json:"bytes"`
}

type tidyRuleBody struct {
	ID      int64        `json:"id"`
	Finding string       `json:"finding" enum:"orphans,twice"`
	Days    int          `json:"days"`
	When    scheduleBody `json:"when"`
	NextAt  time.Time    `json:"nextAt"`
	Person  string       `json:"person"`
	Plan    *int64       `json:"plan,omitempty" doc:"The plan that it made last."`
}

func (s *Server) tidyActs(api huma.API) {
	s.binRoutes(api)
	s.ruleRoutes(api)
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tidy/plans", "plan-tidy", "Make a plan of what was found"),
		func(ctx context.Context, in *struct {
			Body struct {
				Finding string  `json:"finding" enum:"orphans,twice"`
				Title   string  `json:"title,omitempty" maxLength:"200"`
				Days    int     `json:"days,omitempty" minimum:"0" maximum:"3650" doc:"Of orphans: those older than so many days."`
				Bests   []int64 `json:"bests,omitempty" maxItems:"10000" doc:"Of what is there twice: groups by their best; all where none is named."`
			}
		}) (*body[idBody], error) {
			var plan int64
			var err error
			switch in.Body.Finding {
			case tidy.TwiceRule:
				plan, err = s.Tidy.KeepBest(ctx, person(ctx).ID, in.Body.Title, in.Body.Bests)
			default:
				plan, err = s.Tidy.BinOrphans(ctx, person(ctx).ID, in.Body.Title, in.Body.Days)
			}
			return answer(idBody{plan}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tidy/find", "find-again", "Find what is to tidy again, now"),
		func(ctx context.Context, _ *struct{}) (*struct{}, error) { return nil, problem(s.Tidy.FindSoon(ctx)) })
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/tidy/scrub", "scrub", "Begin to read all stored bytes again, slowly"),
		func(ctx context.Context, _ *struct{}) (*struct{}, error) { return nil, problem(s.Tidy.ScrubNow(ctx)) })
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/tidy/strays/delete", "delete-strays", "Delete stored blobs that no picture knows"),
		func(ctx context.Context, _ *struct{}) (*body[deletedBody], error) {
			n, err := s.Tidy.DeleteStrays(ctx)
			return answer(deletedBody{n}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/limits", "get-limits", "From which figures on things are found, and for how long they are kept"),
		func(ctx context.Context, _ *struct{}) (*body[core.Limits], error) {
			l, err := s.Tidy.Limits(ctx)
			return answer(l), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPut, "/api/tidy/limits", "set-limits", "Set them"),
		func(ctx context.Context, in *struct{ Body core.Limits }) (*struct{}, error) {
			return nil, problem(s.Tidy.SetLimits(ctx, person(ctx).ID, in.Body))
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/storage", "count-storage", "How much is stored, by source, category, format and month"),
		func(ctx context.Context, _ *struct{}) (*body[storageBody], error) {
			b, err := s.storage(ctx)
			return answer(b), problem(err)
		})
}

type deletedBody struct {
	Deleted int `json:"deleted"`
}

func (s *Server) binRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/bin", "list-bin", "What lies in the bin, the longest first"),
		func(ctx context.Context, in *struct {
			After string `query:"after" maxLength:"60" doc:"Where the page before ended: its next."`
			Most  int32  `query:"most" minimum:"1" maximum:"500" default:"100"`
		}) (*body[binBody], error) {
			b, err := s.bin(ctx, in.After, in.Most)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/breaks", "list-breaks", "Runs that could not be taken back whole once the bin is emptied, the newest first"),
		func(ctx context.Context, in *struct {
			Most int `query:"most" minimum:"1" maximum:"200" default:"50"`
		}) (*body[[]breaksBody], error) {
			rows, err := s.Tidy.Breaks(ctx, in.Most)
			all := make([]breaksBody, len(rows))
			for i, r := range rows {
				all[i] = breaksBody{Run: r.ID, Title: r.Title, At: r.CreatedAt, Lines: r.Lines}
			}
			return answer(all), problem(err)
		})
	empty := operation(people.Admin, http.MethodPost, "/api/tidy/empty", "empty-bin", "Delete for good what lies in the bin, or some of it: a run that nothing takes back")
	empty.MaxBodyBytes, empty.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, empty, func(ctx context.Context, in *struct {
		Body struct {
			Count    int     `json:"count" minimum:"1" doc:"How many whoever asks has seen."`
			Pictures []int64 `json:"pictures,omitempty" maxItems:"100000"`
			Title    string  `json:"title,omitempty" maxLength:"200"`
		}
	}) (*body[idBody], error) {
		run, err := s.Tidy.EmptyBin(ctx, person(ctx).ID, in.Body.Title, in.Body.Pictures, in.Body.Count)
		return answer(idBody{run}), problem(err)
	})
}

func (s *Server) bin(ctx context.Context, after string, most int32) (b binBody, err error) {
	at, id, err := readBinPlace(after)
	if err != nil {
		return b, err
	}
	l, err := s.Tidy.Limits(ctx)
	if err != nil {
		return b, err
	}
	rows, err := s.Store.BinPage(ctx, query.BinPageParams{After: at, AfterID: id, Most: most})
	if err != nil {
		return b, err
	}
	cards, err := cardsOf(ctx, s, rows, func(r query.BinPageRow) int64 { return r.ID })
	b.Pictures = make([]binnedBody, len(rows))
	for i, r := range rows {
		b.Pictures[i] = binnedBody{cards[r.ID], r.BinnedAt, r.BinnedAt.AddDate(0, 0, l.BinDays)}
	}
	if len(rows) == int(most) {
		last := rows[len(rows)-1]
		b.Next = fmt.Sprintf("%d.%d", last.BinnedAt.UnixMicro(), last.ID)
	}
	return b, err
}

func (s *Server) storage(ctx context.Context) (b storageBody, err error) {
	b.Figures = []storageFigure{}
	rows, err := s.Tidy.Storage(ctx)
	if err != nil {
		return b, err
	}
	for _, r := range rows {
		b.Figures = append(b.Figures, storageFigure{By: r.ByWhat, Name: r.Name, Pictures: r.Pictures, Bytes: r.Bytes})
		if r.ByWhat == "format" {
			b.Originals += r.Bytes
		}
	}
	bin, err := s.Store.BinCounts(ctx)
	if err != nil {
		return b, err
	}
	b.Bin = bin.Bytes
	b.Derived, err = s.Tidy.DerivedBytes(ctx)
	return b, err
}

func (s *Server) ruleRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/rules", "list-tidy-rules", "What the clock proposes"),
		func(ctx context.Context, in *FindPage) (*body[[]tidyRuleBody], error) {
			rows, err := s.Store.TidyRules(ctx, query.TidyRulesParams{After: in.After, Most: int32(in.Most)})
			all := make([]tidyRuleBody, len(rows))
			for i, r := range rows {
				all[i] = tidyRuleBody{ID: r.ID, Finding: r.Finding, Days: int(r.Days), NextAt: r.NextAt, Person: r.Person, Plan: r.PlanID,
					When: scheduleBody{Each: r.Each, Minute: int(r.Minute), Weekday: int(r.Weekday), Zone: r.TimeZone}}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tidy/rules", "add-tidy-rule", "Have the clock propose something"),
		func(ctx context.Context, in *struct {
			Body struct {
				Finding string       `json:"finding" enum:"orphans,twice"`
				Title   string       `json:"title" minLength:"1" maxLength:"200" doc:"Of its plans."`
				Days    int          `json:"days,omitempty" minimum:"0" maximum:"3650"`
				When    scheduleBody `json:"when"`
			}
		}) (*body[idBody], error) {
			when, err := in.Body.When.schedule()
			if err != nil {
				return nil, problem(err)
			}
			id, err := s.Tidy.AddRule(ctx, person(ctx).ID, in.Body.Finding, in.Body.Title, in.Body.Days, when)
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/tidy/rules/{id}", "remove-tidy-rule", "End a rule"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Tidy.RemoveRule(ctx, in.ID))
		})
}
