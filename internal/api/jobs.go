package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
)

type jobBody struct {
	ID      int64           `json:"id"`
	Kind    string          `json:"kind" enum:"run,take_in,worksheet,reconcile,publishing" doc:"What it does: apply a plan, take a delivery in, read and check a table."`
	Subject int64           `json:"subject" doc:"The run or delivery it works on."`
	Title   string          `json:"title"`
	State   string          `json:"state" enum:"waiting,working,stopping,stopped,failed"`
	Done    int64           `json:"done"`
	Total   int64           `json:"total" doc:"0 where nobody knows it yet."`
	Unit    string          `json:"unit" doc:"What is counted."`
	Bytes   int64           `json:"bytes"`
	Notes   json.RawMessage `json:"notes" doc:"Why it waits or failed: messages of code and data."`
	AskedAt time.Time       `json:"askedAt"`
	BeganAt *time.Time      `json:"beganAt,omitempty"`
	Person  string          `json:"person"`
	Rate    float64         `json:"rate" doc:"So many a second since it began."`
}

type noticeBody struct {
	ID      int64           `json:"id"`
	At      time.Time       `json:"at"`
	Kind    string          `json:"kind" enum:"run,take_in,worksheet,reconcile,tidy_plan,publishing"`
	Subject int64           `json:"subject" doc:"The run, delivery or import that it was."`
	Title   string          `json:"title"`
	State   string          `json:"state" enum:"done,stopped,failed"`
	Done    int64           `json:"done"`
	Unit    string          `json:"unit"`
	Notes   json.RawMessage `json:"notes"`
	ReadAt  *time.Time      `json:"readAt,omitempty"`
}

type noticesBody struct {
	Unread  int32        `json:"unread"`
	Notices []noticeBody `json:"notices" doc:"The newest first."`
}

// jobsAtMost is how many jobs one page shows.
const jobsAtMost = 200

func (s *Server) jobRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/jobs", "list-jobs",
		"All that runs in the background, of every kind, and what failed or was stopped in the last day"),
		func(ctx context.Context, in *struct {
			After int64 `query:"after" doc:"Give the jobs after this number."`
		}) (*body[[]jobBody], error) {
			rows, err := s.Store.JobsAtWork(ctx, query.JobsAtWorkParams{After: in.After, Most: jobsAtMost})
			all := make([]jobBody, len(rows))
			for i, j := range rows {
				all[i] = jobBody(j)
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/notices", "list-notices", "What ended of all that you asked for"),
		func(ctx context.Context, in *struct {
			Before int64 `query:"before" minimum:"0" doc:"Give those before this number; 0 for the newest."`
			Most   int32 `query:"most" minimum:"1" maximum:"100" default:"20"`
		}) (*body[noticesBody], error) {
			if in.Before == 0 {
				in.Before = 1 << 62
			}
			rows, err := s.Store.Notices(ctx, query.NoticesParams{PersonID: person(ctx).ID, Before: in.Before, Most: in.Most})
			if err != nil {
				return nil, problem(err)
			}
			out := noticesBody{Notices: make([]noticeBody, len(rows))}
			for i, n := range rows {
				out.Notices[i] = noticeBody(n)
			}
			out.Unread, err = s.Store.UnreadNotices(ctx, person(ctx).ID)
			return answer(out), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodPost, "/api/notices/read", "read-notices", "You have read what ended, up to a number"),
		func(ctx context.Context, in *struct {
			Body struct {
				UpTo int64 `json:"upTo" minimum:"1"`
			}
		}) (*struct{}, error) {
			return nil, problem(s.Store.ReadNotices(ctx, query.ReadNoticesParams{PersonID: person(ctx).ID, UpTo: in.Body.UpTo}))
		})
}
