package api

import (
	"context"
	"net/http"
	"time"

	core "ambrosa/core/wording"
	"ambrosa/internal/people"
	"ambrosa/internal/wording"

	"github.com/danielgtaylor/huma/v2"
)

// RuleBody is how texts of pictures are made.
type RuleBody struct {
	Kind     string `json:"kind,omitempty" enum:"product,variant,category" doc:"For which owners; none for all."`
	Branch   int64  `json:"branch,omitempty" minimum:"0" doc:"In and below which category; 0 for everywhere."`
	Language string `json:"language" minLength:"2" maxLength:"35" doc:"By BCP 47."`
	Field    string `json:"field" enum:"alt,title,caption,description,file_name"`
	Pattern  string `json:"pattern" minLength:"1" maxLength:"1000"`
	Most     int    `json:"most,omitempty" minimum:"0" maximum:"2000" doc:"Characters at most; 0 for 2000."`
	Case     string `json:"case,omitempty" enum:"upper,lower,title,sentence"`
}

// keptRuleBody is a rule as it is kept.
type keptRuleBody struct {
	RuleBody
	ID          int64     `json:"id"`
	BranchTitle string    `json:"branchTitle,omitempty"`
	Person      string    `json:"person,omitempty" doc:"Who changed it last; none for one that came with the program."`
	ChangedAt   time.Time `json:"changedAt"`
}

func (b RuleBody) rule(id int64) wording.Rule {
	return wording.Rule{ID: id, Kind: b.Kind, Branch: b.Branch, Language: b.Language, Field: core.Field(b.Field), Pattern: b.Pattern, Most: b.Most, Case: b.Case}
}

// TextScope says whose pictures are meant.
type TextScope struct {
	Category int64    `json:"category,omitempty" minimum:"0" doc:"Only owners in and below a category, and those categories; 0 for everywhere."`
	Kinds    []string `json:"kinds,omitempty" maxItems:"3" enum:"product,variant,category"`
	Owners   []int64  `json:"owners,omitempty" maxItems:"10000" doc:"Only these."`
}

// TextAct says what is done with texts.
type TextAct struct {
	Act      string            `json:"act" enum:"rules,pattern,replace,same,texts,clear" doc:"rules makes all texts that the house's rules know, the others change one field in one language."`
	Field    string            `json:"field,omitempty" enum:"alt,title,caption,description,file_name"`
	Language string            `json:"language,omitempty" maxLength:"35"`
	Pattern  string            `json:"pattern,omitempty" maxLength:"1000"`
	Most     int               `json:"most,omitempty" minimum:"0" maximum:"2000"`
	Case     string            `json:"case,omitempty" enum:"upper,lower,title,sentence"`
	Find     string            `json:"find,omitempty" maxLength:"2000"`
	By       string            `json:"by,omitempty" maxLength:"2000"`
	Text     string            `json:"text,omitempty" maxLength:"2000"`
	Texts    []writtenTextBody `json:"texts,omitempty" maxItems:"10000"`
	Over     bool              `json:"over,omitempty" doc:"Whether patterns replace what is written by hand, and published file names."`
}

type writtenTextBody struct {
	Owner int64  `json:"owner"`
	Asset int64  `json:"asset"`
	Text  string `json:"text" maxLength:"2000"`
}

func (b TextAct) act() wording.Act {
	a := wording.Act{Kind: b.Act, Field: core.Field(b.Field), Language: b.Language, Pattern: b.Pattern, Most: b.Most, Case: b.Case, Find: b.Find, By: b.By, Text: b.Text, Over: b.Over}
	for _, t := range b.Texts {
		a.Texts = append(a.Texts, wording.WrittenText(t))
	}
	return a
}

func (s *Server) wordingRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/wording/rules", "list-wording-rules", "How texts of pictures are made, by number"),
		func(ctx context.Context, in *struct {
			After int64 `query:"after" minimum:"0" doc:"The last rule's number of the page before."`
			Most  int64 `query:"most" minimum:"1" maximum:"500" default:"100"`
		}) (*body[[]keptRuleBody], error) {
			rules, err := s.Wording.Rules(ctx, in.After, in.Most)
			all := make([]keptRuleBody, len(rules))
			for i, r := range rules {
				all[i] = keptRuleBody{ID: r.ID, BranchTitle: r.BranchTitle, Person: r.Person, ChangedAt: r.ChangedAt,
					RuleBody: RuleBody{Kind: r.Kind, Branch: r.Branch, Language: r.Language, Field: string(r.Field), Pattern: r.Pattern, Most: r.Most, Case: r.Case}}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/wording/rules", "add-wording-rule", "Add a rule"),
		func(ctx context.Context, in *struct{ Body RuleBody }) (*body[idBody], error) {
			id, err := s.Wording.Save(ctx, person(ctx).ID, in.Body.rule(0))
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/wording/rules/{id}", "set-wording-rule", "Change a rule"),
		func(ctx context.Context, in *struct {
			ByID
			Body RuleBody
		}) (*struct{}, error) {
			_, err := s.Wording.Save(ctx, person(ctx).ID, in.Body.rule(in.ID))
			return nil, problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/wording/rules/{id}", "remove-wording-rule", "Remove a rule; texts that it made stay"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Wording.Remove(ctx, in.ID))
		})
	plan := operation(people.Editor, http.MethodPost, "/api/wording/plans", "plan-wording", "Make the plan of a change of texts")
	plan.MaxBodyBytes, plan.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, plan, func(ctx context.Context, in *struct {
		Body struct {
			TextAct
			Scope TextScope `json:"scope"`
			Title string    `json:"title" maxLength:"200"`
		}
	}) (*body[idBody], error) {
		id, err := s.Wording.Plan(ctx, person(ctx).ID, in.Body.Title, wording.Scope(in.Body.Scope), in.Body.act())
		return answer(idBody{id}), problem(err)
	})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/plans/{id}/texts", "fill-plan", "Give the new pictures of a plan their texts by the rules, or take those off it"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				On bool `json:"on"`
			}
		}) (*struct{}, error) {
			return nil, problem(s.Wording.Fill(ctx, in.ID, in.Body.On))
		})
}
