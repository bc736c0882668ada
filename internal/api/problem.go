package api

import (
	"errors"
	"net/http"

	"ambrosa/core/catalogue"
	shelf "ambrosa/internal/catalogue"
	"ambrosa/internal/gather"
	"ambrosa/internal/ledger"
	"ambrosa/internal/pair"
	"ambrosa/internal/people"

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
	{people.ErrSignIn, 401}, {people.ErrTooMany, 429}, {people.ErrBusy, 503}, {people.ErrUnknown, 401}, {people.ErrTaken, 409},
	{people.ErrWeak, 422}, {people.ErrRole, 422}, {people.ErrName, 422}, {people.ErrPassword, 422}, {people.ErrSettings, 422},
	{people.ErrLastAdmin, 409}, {people.ErrFormer, 409},
	{gather.ErrNotOpen, 409}, {gather.ErrMissing, 409}, {gather.ErrNothing, 409}, {gather.ErrState, 409}, {gather.ErrKept, 409}, {gather.ErrNoRoom, 507},
	{pair.ErrForeign, 409}, {pair.ErrRule, 422}, {pair.ErrNoPicture, 422}, {pair.ErrDoubled, 422}, {pair.ErrRank, 422}, {pair.ErrNotReady, 409}, {pair.ErrNoStep, 409},
	{ledger.ErrNothingToDo, 409}, {ledger.ErrApplied, 409}, {ledger.ErrState, 409}, {ledger.ErrUndone, 409},
	{catalogue.ErrNoTable, 422}, {catalogue.ErrNoSKU, 422}, {catalogue.ErrNotText, 422}, {catalogue.ErrColumns, 422}, {shelf.ErrLarge, 413},
}

// retryAfter says in seconds when an error may have passed.
var retryAfter = map[error]string{people.ErrTooMany: "900", people.ErrBusy: "5"}

// problem turns an error into problem details; nil stays nil. What is not the user's stays as it is; see told.
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
			told := huma.NewError(s.status, sentence(text))
			if after := retryAfter[s.err]; after != "" {
				return huma.ErrorWithHeaders(told, http.Header{"Retry-After": {after}})
			}
			return told
		}
	}
	return err
}

// ByID is the number in an address.
type ByID struct {
	ID int64 `path:"id" minimum:"1"`
}

type idBody struct {
	ID int64 `json:"id"`
}
