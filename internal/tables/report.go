package tables

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"ambrosa/core/message"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store/query"
)

// Report writes what became of each row of the table that a plan was made from, as far as its run has come. A plan of anything else has
// no rows.
func (t *Tables) Report(ctx context.Context, plan int64, to sheet.Writer) error {
	say := func(code string) string { return message.New("report_" + code).Text() }
	if err := to.Row([]string{say("row"), say("key"), say("result"), say("pictures"), say("notes")}); err != nil {
		return err
	}
	for after := int32(0); ; {
		rows, err := t.Store.PlanRows(ctx, query.PlanRowsParams{Plan: plan, After: after, Most: piece})
		if err != nil {
			return err
		}
		for _, r := range rows {
			cells, err := reported(r)
			if err != nil {
				return err
			}
			if err := to.Row(cells); err != nil {
				return err
			}
			after = r.Row
		}
		if len(rows) < piece {
			return nil
		}
	}
}

// reported is one row of the report.
func reported(r query.PlanRowsRow) ([]string, error) {
	var says []message.Message
	if err := json.Unmarshal(r.Says, &says); err != nil {
		return nil, err
	}
	result, pictures := "row_"+r.State, message.Message{}
	if r.State == rowGoes {
		done := became{r.OwnerChanges, r.OwnerMade, r.OwnerUndone, r.OwnerCode}
		result = "owner_" + done.state()
		if r.OwnerNew && result == "owner_made" {
			result = "owner_created"
		}
		if r.OwnerNew && result == "owner_planned" {
			result = "owner_creates"
		}
		done = became{r.PicturesChange, r.PicturesMade, r.PicturesUndone, r.PicturesCode}
		pictures = message.New("report_pictures_"+done.state(), "count", r.Pictures)
	}
	for _, left := range []struct {
		code string
		data json.RawMessage
	}{{r.OwnerCode, r.OwnerData}, {r.PicturesCode, r.PicturesData}} {
		if left.code == "" {
			continue
		}
		m := message.Message{Code: left.code}
		if err := json.Unmarshal(left.data, &m.Data); err != nil {
			return nil, err
		}
		says = append(says, m)
	}
	cells := []string{fmt.Sprint(r.Row), r.Key, message.New("report_" + result).Text(), "", strings.TrimSpace(message.Texts(says))}
	if pictures.Code != "" {
		cells[3] = pictures.Text()
	}
	return cells, nil
}

// became is what became of one line of a plan.
type became struct {
	changes, made, undone bool
	code                  string // why it was left alone
}

func (b became) state() string {
	switch {
	case !b.changes:
		return "same"
	case b.code != "":
		return "left"
	case b.undone:
		return "undone"
	case b.made:
		return "made"
	}
	return "planned"
}
