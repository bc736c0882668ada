package wording

import (
	"context"
	"encoding/json"

	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/wording"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Fill gives the new pictures of a plan their texts by the rules as they are now, or takes those off it; texts by hand stay. Errors:
// ledger.ErrApplied, pgx.ErrNoRows. Cost: by the plan's lines.
func (w *Wording) Fill(ctx context.Context, plan int64, on bool) error {
	return w.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if err := q.LockPlan(ctx, plan); err != nil {
			return err
		}
		p, err := q.PlanByID(ctx, plan)
		if err != nil {
			return err
		}
		if p.RunID != nil {
			return ledger.ErrApplied
		}
		rows, err := q.PlannedLines(ctx, plan)
		if err != nil {
			return err
		}
		changes := make([]change.Change, len(rows))
		for i, r := range rows {
			changes[i] = change.Change{Seq: r.Seq, Subject: r.Subject, ID: r.SubjectID, Before: r.Before, After: r.After}
		}
		d := ledger.Draft{Counts: map[string]int{}}
		if err := json.Unmarshal(p.Counts, &d.Counts); err != nil {
			return err
		}
		delete(d.Counts, made)
		delete(d.Counts, off)
		if err := bare(changes); err != nil {
			return err
		}
		if on {
			if err := w.Complete(ctx, q, changes, &d); err != nil {
				return err
			}
		} else {
			d.Counts[off] = 1
		}
		set := query.SetPlannedLinesParams{PlanID: plan}
		for _, c := range changes {
			if c.Subject == placement.Subject {
				set.Seqs, set.Afters = append(set.Seqs, c.Seq), append(set.Afters, c.After)
			}
		}
		if err := q.SetPlannedLines(ctx, set); err != nil {
			return err
		}
		counts, err := json.Marshal(d.Counts)
		if err != nil {
			return err
		}
		return q.SetPlanCounts(ctx, query.SetPlanCountsParams{ID: plan, Counts: counts})
	})
}

// off counts 1 where the rules' texts were taken off a plan.
const off = "texts_off"

// bare takes the texts that rules made off the lines of a plan.
func bare(changes []change.Change) error {
	for i, c := range changes {
		if c.Subject != placement.Subject || change.None(c.After) {
			continue
		}
		pictures, err := placement.Read(c.After)
		if err != nil {
			return err
		}
		for n := range pictures {
			kept := wording.Texts(nil)
			for field, of := range pictures[n].Texts {
				for lang, text := range of {
					if text.Hand {
						kept.Set(field, lang, text)
					}
				}
			}
			pictures[n].Texts = kept
		}
		changes[i].After = placement.JSON(pictures)
	}
	return nil
}
