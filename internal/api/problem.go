package api

import (
	"context"
	"errors"
	"log/slog"
	"strings"

	"ambrosa/core/catalogue"
	"ambrosa/internal/bench"
	"ambrosa/internal/gather"
	"ambrosa/internal/people"
	"ambrosa/internal/runs"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

var errMissing = errors.New("there is no such thing, or no longer")

// statuses say how an error of the product is told in HTTP.
var statuses = []struct {
	err    error
	status int
}{
	{pgx.ErrNoRows, 404}, {errMissing, 404},
	{people.ErrSignIn, 401}, {people.ErrTooMany, 429}, {people.ErrUnknown, 401}, {people.ErrTaken, 409},
	{people.ErrWeak, 422}, {people.ErrRole, 422}, {people.ErrName, 422},
	{gather.ErrNotOpen, 409}, {gather.ErrMissing, 409}, {gather.ErrNothing, 409}, {gather.ErrState, 409},
	{bench.ErrForeign, 409}, {bench.ErrRule, 422},
	{runs.ErrNothingToDo, 409}, {runs.ErrApplied, 409}, {runs.ErrState, 409},
	{catalogue.ErrNoTable, 422}, {catalogue.ErrNoSKU, 422}, {catalogue.ErrNotText, 422},
}

// problem turns an error into problem details; nil stays nil. What is not the user's is logged, not told.
func problem(err error) error {
	if err == nil {
		return nil
	}
	for _, s := range statuses {
		if errors.Is(err, s.err) {
			text := err.Error()
			if s.err == pgx.ErrNoRows {
				text = errMissing.Error()
			}
			return huma.NewError(s.status, strings.ToUpper(text[:1])+text[1:]+".")
		}
	}
	if !errors.Is(err, context.Canceled) {
		slog.Error("answering", "error", err)
	}
	return huma.NewError(500, "Something went wrong on the server; its log says what.")
}

// ByID is the number in an address.
type ByID struct {
	ID int64 `path:"id" minimum:"1"`
}

type idBody struct {
	ID int64 `json:"id"`
}

func operation(method, path, id, summary string) huma.Operation {
	station, _, _ := strings.Cut(strings.TrimPrefix(path, "/api/"), "/")
	return huma.Operation{Method: method, Path: path, OperationID: id, Summary: summary, Tags: []string{station}}
}
