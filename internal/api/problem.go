package api

import (
	"errors"
	"net/http"

	"ambrosa/core/catalogue"
	"ambrosa/core/channel"
	"ambrosa/core/page"
	"ambrosa/core/schedule"
	core "ambrosa/core/wording"
	"ambrosa/internal/drive"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather"
	"ambrosa/internal/hand"
	"ambrosa/internal/ledger"
	"ambrosa/internal/pages"
	"ambrosa/internal/pair"
	"ambrosa/internal/people"
	"ambrosa/internal/publish"
	"ambrosa/internal/seal"
	"ambrosa/internal/sheet"
	"ambrosa/internal/sources"
	"ambrosa/internal/tablefiles"
	"ambrosa/internal/tables"
	"ambrosa/internal/tell"
	"ambrosa/internal/tidy"
	"ambrosa/internal/wording"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

var errMissing = errors.New("not found, or deleted")

// statuses say how an error of the product is told in HTTP: its status, and the code by which screens say it in their language.
var statuses = []struct {
	err    error
	status int
	code   string
}{
	{pgx.ErrNoRows, 404, "missing"}, {errMissing, 404, "missing"},
	{people.ErrSignIn, 401, "sign_in"}, {people.ErrTooMany, 429, "too_many"}, {people.ErrBusy, 503, "busy"}, {people.ErrUnknown, 401, "signed_out"}, {people.ErrTaken, 409, "name_taken"},
	{people.ErrWeak, 422, "weak"}, {people.ErrRole, 422, "role"}, {people.ErrName, 422, "name"}, {people.ErrPassword, 422, "password"}, {people.ErrSettings, 422, "settings"},
	{people.ErrLastAdmin, 409, "last_admin"}, {people.ErrFormer, 409, "former"},
	{gather.ErrNotOpen, 409, "not_open"}, {gather.ErrMissing, 409, "uploads_missing"}, {gather.ErrNothing, 409, "nothing_sent"}, {gather.ErrState, 409, "delivery_state"}, {gather.ErrKept, 409, "delivery_kept"}, {gather.ErrNoRoom, 507, "no_room"},
	{pair.ErrForeign, 409, "foreign_line"}, {pair.ErrRule, 422, "rule"}, {pair.ErrNoPicture, 422, "no_picture"}, {pair.ErrDoubled, 422, "doubled"}, {pair.ErrRank, 422, "rank"}, {pair.ErrNotReady, 409, "not_ready"}, {pair.ErrNoStep, 409, "no_step"},
	{ledger.ErrNothingToDo, 409, "nothing_to_do"}, {ledger.ErrApplied, 409, "applied"}, {ledger.ErrState, 409, "run_state"}, {ledger.ErrUndone, 409, "undone"}, {ledger.ErrFinal, 409, "final"},
	{tidy.ErrCount, 409, "bin_count"}, {tidy.ErrDeliveryOpen, 409, "delivery_open"}, {tidy.ErrLimits, 422, "limits"}, {tidy.ErrFinding, 422, "finding"},
	{tablefiles.ErrEmpty, 422, "table_empty"}, {catalogue.ErrNoSKU, 422, "table_sku"}, {sheet.ErrNoTable, 422, "table_text"},
	{catalogue.ErrColumns, 422, "table_columns"}, {sheet.ErrPassword, 422, "table_password"}, {sheet.ErrOld, 422, "table_old"},
	{sheet.ErrDamaged, 422, "table_damaged"}, {sheet.ErrTooLarge, 422, "table_bomb"},
	{tables.ErrLarge, 413, "too_large"}, {tables.ErrField, 422, "table_field"}, {tables.ErrNotChecked, 409, "table_unchecked"},
	{tables.ErrShotColumns, 422, "picture_columns"}, {tables.ErrManyShots, 422, "picture_many"}, {sheet.ErrTaken, 409, "cell_taken"}, {sheet.ErrPlace, 422, "cell_place"},
	{sheet.ErrSheet, 422, "no_sheet"}, {tables.ErrName, 422, "assignment_name"}, {tables.ErrHeader, 409, "assignment_header"},
	{tables.ErrNothing, 409, "nothing_to_collect"}, {tables.ErrCollecting, 409, "collecting"},
	{sources.ErrName, 409, "source_name"}, {sources.ErrHost, 422, "drive_host"}, {sources.ErrFolder, 422, "drive_folder"}, {sources.ErrBusy, 409, "source_busy"},
	{sources.ErrNotCollected, 409, "not_collected"}, {sources.ErrNotMine, 403, "source_not_mine"}, {sources.ErrSettings, 422, "source_settings"}, {schedule.ErrSchedule, 422, "schedule"},
	{seal.ErrKey, 409, "sealed"}, {drive.ErrSignIn, 502, "drive_sign_in"}, {drive.ErrHostKey, 502, "drive_host_key"}, {drive.ErrCertificate, 502, "drive_certificate"},
	{drive.ErrNoFolder, 404, "drive_no_folder"}, {drive.ErrNoAnswer, 502, "drive_no_answer"}, {fetch.ErrRefused, 422, "drive_refused"}, {drive.ErrDrive, 502, "drive_answers"},
	{core.ErrPattern, 422, "pattern"}, {core.ErrLoop, 422, "pattern_loop"}, {core.ErrLanguage, 422, "language"}, {core.ErrField, 422, "text_field"},
	{wording.ErrCase, 422, "text_case"}, {wording.ErrTwice, 409, "rule_twice"}, {wording.ErrBranch, 422, "rule_branch"}, {wording.ErrAct, 422, "text_act"},
	{wording.ErrTooLong, 422, "text_long"}, {hand.ErrSiblings, 409, "siblings"}, {hand.ErrRule, 422, "rule"}, {hand.ErrAddress, 422, "picture_address"},
	{page.ErrGuide, 422, "guide"}, {page.ErrPoint, 422, "point"}, {page.ErrNoRule, 422, "no_page_rule"}, {pages.ErrForgotten, 404, "page_forgotten"}, {sources.ErrNoGuide, 409, "no_guide"}, {sources.ErrNothingToAsk, 409, "nothing_to_ask"},
	{channel.ErrChannel, 422, "channel"}, {publish.ErrName, 409, "channel_name"}, {publish.ErrListName, 422, "list_name"}, {publish.ErrBusy, 409, "channel_busy"}, {publish.ErrNoPackage, 409, "no_package"},
	{tell.ErrAddress, 422, "mail_address"}, {tell.ErrWish, 422, "mail_wish"}, {tell.ErrServer, 422, "mail_server"}, {tell.ErrWebhook, 422, "webhook"}, {tell.ErrNoServer, 409, "no_mail_server"},
	{tell.ErrNoAddress, 409, "no_mail_address"}, {tell.ErrTry, 502, "mail_not_sent"},
	{publish.ErrSite, 422, "site"}, {publish.ErrNoAddresses, 409, "no_addresses"},
	{tables.ErrNoStep, 409, "no_step"}, {tables.ErrNoCell, 422, "table_cell"},
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
			if model, ok := told.(*huma.ErrorModel); ok {
				model.Type = "urn:ambrosa:" + s.code // RFC 9457, section 3.1.1: an identifier of the kind of problem
			}
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
