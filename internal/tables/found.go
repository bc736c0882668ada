package tables

import (
	"context"
	"errors"
	"io"
	"path"
	"slices"
	"strings"

	"ambrosa/internal/gather"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tablefiles"

	"github.com/jackc/pgx/v5"
)

const (
	// mostFound is how many tables of one delivery are taken in hand.
	mostFound = 20
	// largestFound is how large such a table may be, in bytes; others are sent by themselves.
	largestFound = 256 << 20
)

// MayBe reports whether a file beside pictures may be the list of them, by its name.
func (t *Tables) MayBe(name string) bool {
	return slices.Contains([]string{".csv", ".tsv", ".xlsx", ".xlsm", ".ods"}, strings.ToLower(path.Ext(name)))
}

// Found takes a table in hand that lies beside the pictures of a delivery; they belong to it. Told of it again it does nothing. kept is
// false for what is no table. Errors are the server's.
func (t *Tables) Found(ctx context.Context, delivery int64, item, name string, from io.Reader) (kept bool, err error) {
	switch _, err := t.Store.WorksheetFound(ctx, query.WorksheetFoundParams{Delivery: delivery, Item: item}); {
	case err == nil:
		return true, nil
	case !errors.Is(err, pgx.ErrNoRows):
		return false, err
	}
	source, err := t.Store.SourceOf(ctx, delivery)
	if err != nil {
		return false, err
	}
	at := lay{delivery: delivery, item: item, sent: gather.IsOfLists(source.Source)}
	most := int64(largestFound)
	if at.sent {
		most = largest
	}
	others, err := t.Store.TablesFound(ctx, query.TablesFoundParams{Delivery: delivery, Most: mostFound})
	if err != nil || len(others) == mostFound {
		return false, err
	}
	of, err := t.Store.DeliveryTitle(ctx, delivery)
	if err != nil {
		return false, err
	}
	_, err = t.bring(ctx, path.Base(name), io.LimitReader(from, most), of.CreatedBy, &at)
	if tablefiles.Code(err) != "" {
		return false, nil
	}
	return err == nil, err
}
