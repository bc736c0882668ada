package pair

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"ambrosa/core/message"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// ErrNoStep is returned where a person has nothing to undo, or nothing to do again.
var ErrNoStep = errors.New("nothing is left here to undo or redo")

// Undone is what became of undoing a step, or of doing it again.
type Undone struct {
	Says  message.Message // what the step was
	Lines int             // lines that were changed
	Left  int             // lines left alone, as somebody was later
	By    []string        // who that was
}

// step does something to the decisions on some lines in one transaction and keeps what they were before and after, so that the
// person can undo it. What they undid before can't be done again then. Who looks on is told.
func (b *Pairer) step(ctx context.Context, delivery, person int64, says message.Message, arrivals []int64,
	do func(q *query.Queries) error) error {
	kept, err := json.Marshal(says)
	if err != nil {
		return err
	}
	return b.change(ctx, delivery, func(q *query.Queries) error {
		if err := q.ForgetUndone(ctx, query.ForgetUndoneParams{DeliveryID: delivery, PersonID: person}); err != nil {
			return err
		}
		step, err := q.AddStep(ctx, query.AddStepParams{DeliveryID: delivery, PersonID: person, Says: kept})
		if err != nil {
			return err
		}
		if err := q.AddStepLines(ctx, query.AddStepLinesParams{Step: step, Arrivals: arrivals}); err != nil {
			return err
		}
		if err := do(q); err != nil {
			return err
		}
		return q.EndStepLines(ctx, query.EndStepLinesParams{Step: step, Arrivals: arrivals})
	})
}

// Undo takes back the last step of a person in a delivery; with again, it does the last one that was undone once more. Lines on
// which somebody decided later are left alone. Errors: ErrNoStep.
func (b *Pairer) Undo(ctx context.Context, delivery, person int64, again bool) (u Undone, err error) {
	err = b.change(ctx, delivery, func(q *query.Queries) error {
		step, err := q.LastStep(ctx, query.LastStepParams{DeliveryID: delivery, PersonID: person, Undone: again})
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrNoStep
		} else if err != nil {
			return err
		}
		if err := json.Unmarshal(step.Says, &u.Says); err != nil {
			return err
		}
		lines, err := q.StepLines(ctx, query.StepLinesParams{Redo: again, Step: step.ID})
		if err != nil {
			return err
		}
		var stand []int64
		for _, l := range lines {
			if l.Stands {
				stand = append(stand, l.ArrivalID)
				continue
			}
			u.Left++
			if l.Person != "" && !slices.Contains(u.By, l.Person) {
				u.By = append(u.By, l.Person)
			}
		}
		u.Lines = len(stand)
		if _, err := q.TakeBackDecisions(ctx, query.TakeBackDecisionsParams{DeliveryID: delivery, Arrivals: stand}); err != nil {
			return err
		}
		if err := q.RestoreDecisions(ctx, query.RestoreDecisionsParams{Redo: again, Step: step.ID, Arrivals: stand}); err != nil {
			return err
		}
		return q.EndStep(ctx, query.EndStepParams{ID: step.ID, Undone: !again})
	})
	return u, err
}

// keptDays is how long a person can undo what they decided; what was applied is undone in the ledger.
const keptDays = 90

// ClearSteps removes what can't be undone any more.
func (b *Pairer) ClearSteps(ctx context.Context) error {
	_, err := b.Store.ClearSteps(ctx, keptDays)
	return err
}
