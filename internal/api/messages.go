package api

import (
	"context"
	"net/http"
	"time"

	"ambrosa/internal/people"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tell"

	"github.com/danielgtaylor/huma/v2"
)

type outgoingBody struct {
	ID      int64      `json:"id"`
	Title   string     `json:"title"`
	At      time.Time  `json:"at"`
	Tries   int32      `json:"tries"`
	SentAt  *time.Time `json:"sentAt,omitempty"`
	Ended   bool       `json:"ended,omitempty" doc:"It was sent, or given up."`
	Trouble string     `json:"trouble,omitempty" doc:"What went wrong at the last try."`
	NextAt  time.Time  `json:"nextAt" doc:"When it is tried next, where it has not ended."`
	Webhook int64      `json:"webhook,omitempty"`
}

type mailWishBody struct {
	tell.Wish
	Last []outgoingBody `json:"last" doc:"The last mails that were to be sent, the newest first."`
}

type keptWebhookBody struct {
	ID        int64     `json:"id"`
	Address   string    `json:"address"`
	Tells     string    `json:"tells" enum:"trouble,always"`
	Person    string    `json:"person"`
	CreatedAt time.Time `json:"createdAt"`
}

type webhooksBody struct {
	Webhooks []keptWebhookBody `json:"webhooks"`
	Last     []outgoingBody    `json:"last" doc:"The last events that were to be sent to any of them, the newest first."`
}

// outgoingAtMost is how many of the last messages are shown.
const outgoingAtMost = 20

func (s *Server) messageRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/session/mail", "get-mail-wish", "Where and when you are told by mail of what ended"),
		func(ctx context.Context, _ *struct{}) (*body[mailWishBody], error) {
			w, err := s.Tell.WishOf(ctx, person(ctx).ID)
			if err != nil {
				return nil, problem(err)
			}
			b := mailWishBody{Wish: w, Last: []outgoingBody{}}
			rows, err := s.Store.OutgoingOf(ctx, query.OutgoingOfParams{Person: person(ctx).ID, Most: outgoingAtMost})
			for _, r := range rows {
				b.Last = append(b.Last, outgoingBody{ID: r.ID, Title: r.Title, At: r.At, Tries: r.Tries, SentAt: r.SentAt, Ended: r.Ended, Trouble: r.Trouble, NextAt: r.NextAt})
			}
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodPut, "/api/session/mail", "set-mail-wish", "Say where and when"),
		func(ctx context.Context, in *struct{ Body tell.Wish }) (*struct{}, error) {
			return nil, problem(s.Tell.SetWish(ctx, person(ctx).ID, in.Body))
		})
	huma.Register(api, operation(people.Admin, http.MethodGet, "/api/mail-server", "get-mail-server", "The house's mail server; its secret is never told"),
		func(ctx context.Context, _ *struct{}) (*body[tell.MailServer], error) {
			k, err := s.Tell.Server(ctx)
			return answer(k), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPut, "/api/mail-server", "set-mail-server", "Name the house's mail server"),
		func(ctx context.Context, in *struct{ Body tell.MailServer }) (*struct{}, error) {
			return nil, problem(s.Tell.SetServer(ctx, person(ctx).ID, in.Body))
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/mail-server/try", "try-mail-server", "Send yourself a mail now"),
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			return nil, problem(s.Tell.Try(ctx, person(ctx).ID))
		})
	s.webhookRoutes(api)
}

func (s *Server) webhookRoutes(api huma.API) {
	huma.Register(api, operation(people.Admin, http.MethodGet, "/api/webhooks", "list-webhooks", "Programs that are told of what ended; a page, by their numbers"),
		func(ctx context.Context, in *struct {
			After int64 `query:"after" minimum:"0"`
			Most  int32 `query:"most" minimum:"1" maximum:"200" default:"200"`
		}) (*body[webhooksBody], error) {
			b := webhooksBody{Webhooks: []keptWebhookBody{}, Last: []outgoingBody{}}
			rows, err := s.Store.Webhooks(ctx, query.WebhooksParams{After: in.After, Most: in.Most})
			if err != nil {
				return nil, problem(err)
			}
			for _, r := range rows {
				b.Webhooks = append(b.Webhooks, keptWebhookBody{ID: r.ID, Address: r.Address, Tells: r.Tells, Person: r.Person, CreatedAt: r.CreatedAt})
			}
			last, err := s.Store.OutgoingToHooks(ctx, outgoingAtMost)
			for _, r := range last {
				b.Last = append(b.Last, outgoingBody{ID: r.ID, Title: r.Title, At: r.At, Tries: r.Tries, SentAt: r.SentAt, Ended: r.Ended, Trouble: r.Trouble, NextAt: r.NextAt, Webhook: r.Webhook})
			}
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/webhooks", "add-webhook", "Have a program told: JSON, signed with HMAC-SHA256"),
		func(ctx context.Context, in *struct{ Body tell.Webhook }) (*body[idBody], error) {
			id, err := s.Tell.AddWebhook(ctx, person(ctx).ID, in.Body)
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodDelete, "/api/webhooks/{id}", "remove-webhook", "Tell a program no more"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Tell.RemoveWebhook(ctx, in.ID))
		})
}
