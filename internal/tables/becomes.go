package tables

import (
	"context"
	"encoding/json"

	core "ambrosa/core/catalogue"
	"ambrosa/core/message"
	"ambrosa/core/table"
	"ambrosa/internal/store/query"
)

// What a plan makes of a row.
const (
	rowGoes    = "goes"
	rowStopped = "stopped"
	rowLeftOut = "left_out"
	rowMode    = "mode"    // the table may only create, and it is there
	rowUnknown = "unknown" // nobody in the catalogue has its key
)

// seenRow is a row of a table as a plan saw it.
type seenRow struct {
	row int
	key string
	out bool
}

// becomes tells what the plan makes of each row, for the report of its run. Memory grows with the rows.
func (p *planner) becomes(ctx context.Context, edits []core.Edit, problems []core.Problem) ([]query.AddPlanRowsParams, error) {
	skus := make(map[int]string, len(p.rows))
	want := wanted{}
	for _, r := range p.rows {
		if id := core.Identity(r.SKU); id != "" {
			skus[r.Line] = id
			want.add(table.SKU, id)
		}
	}
	ids := make(map[string]int64, len(p.rows))
	if err := p.standing(ctx, want, ids); err != nil {
		return nil, err
	}
	there := len(ids)
	changed := make(map[int64]bool, len(edits))
	for _, e := range edits {
		if changed[e.ID] = true; e.After != nil && e.After.SKU != "" {
			ids[core.Identity(e.After.SKU)] = e.ID
		}
	}
	says := map[int][]message.Message{}
	stopped := map[int]bool{}
	for _, all := range [][]core.Problem{p.stopped, problems} {
		for _, one := range all {
			says[one.Line] = append(says[one.Line], one.Message)
			stopped[one.Line] = stopped[one.Line] || !one.Kept
		}
	}
	told, err := p.Store.WorksheetTold(ctx, p.w.ID)
	if err != nil {
		return nil, err
	}
	for _, one := range told {
		m, err := readMessage(one.Why)
		if err != nil {
			return nil, err
		}
		says[int(one.Row)] = append(says[int(one.Row)], m)
	}
	onlyNew := table.Mode(p.w.Mode) == table.Create && there > 0
	rows := make([]query.AddPlanRowsParams, len(p.seen))
	for i, s := range p.seen {
		r := query.AddPlanRowsParams{Row: int32(s.row), Key: s.key, State: rowGoes, Says: []byte("[]")}
		sku, read := skus[s.row]
		owner, known := ids[sku]
		switch {
		case s.out:
			r.State = rowLeftOut
		case stopped[s.row]:
			r.State = rowStopped
		case read && !known || !read && p.key != table.SKU:
			r.State = rowUnknown
		case onlyNew && known && !changed[owner]:
			r.State = rowMode
		}
		if known {
			r.OwnerID = &owner
		}
		if m := says[s.row]; len(m) > 0 {
			var err error
			if r.Says, err = json.Marshal(m); err != nil {
				return nil, err
			}
		}
		rows[i] = r
	}
	return rows, nil
}
