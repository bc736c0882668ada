package publish

import (
	"context"
	"encoding/json"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/channel"
	"ambrosa/core/message"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
)

// LeftOut is the state of a file that is not in the plan, as another has its path.
const LeftOut = "left_out"

// Reported is a file of a channel, and what becomes of it, or became.
type Reported struct {
	Path   string
	State  string // one of channel.States, or LeftOut
	Bytes  int64  // -1 where it is not made yet
	Held   bool   // it does not go unless somebody lets it
	Failed bool   // it was to go, and did not
	Says   []message.Message
}

// StateOf is what a line of a plan makes of its file.
func StateOf(c change.Change) channel.State {
	before, after := channel.ReadFiled(c.Before), channel.ReadFiled(c.After)
	there := channel.AsSent
	if after.Again {
		there = channel.Differs
	}
	return channel.Become(channel.Stands{Path: before.Path, Key: before.Key}, channel.File{Path: after.Path, Key: after.Key}, there)
}

// Report tells the files of a channel's last plan as its lines stand: first those that change, then those that are left out, then those that
// stand as they are. ran says that the plan was run.
func (p *Publish) Report(ctx context.Context, id int64, ran bool, use func(Reported) error) error {
	c, err := p.Store.ChannelByID(ctx, id)
	if err != nil {
		return err
	}
	changed := map[int64]bool{}
	if c.PlanID != nil {
		if err := p.reportPlan(ctx, *c.PlanID, ran, changed, use); err != nil {
			return err
		}
	}
	at := query.ChannelFilesStandingParams{Channel: id, Most: page}
	for {
		rows, err := p.Store.ChannelFilesStanding(ctx, at)
		if err != nil {
			return err
		}
		for _, r := range rows {
			at.After = r.ID
			if changed[r.ID] {
				continue
			}
			if err := use(Reported{Path: r.Path, State: string(channel.Unchanged), Bytes: r.Bytes}); err != nil {
				return err
			}
		}
		if len(rows) < page {
			return nil
		}
	}
}

// linesAtOnce is how many lines of a plan are read at once.
const linesAtOnce = 500

func (p *Publish) reportPlan(ctx context.Context, plan int64, ran bool, changed map[int64]bool, use func(Reported) error) error {
	for after := int32(0); ; {
		lines, err := p.Ledger.Lines(ctx, plan, after, linesAtOnce, false)
		if err != nil {
			return err
		}
		bytes, err := p.bytesOf(ctx, lines)
		if err != nil {
			return err
		}
		for _, l := range lines {
			after, changed[l.ID] = l.Seq, true
			of := channel.ReadFiled(l.After)
			r := Reported{Path: of.Path, State: string(StateOf(l.Change)), Bytes: bytes[of.Key], Held: l.Held, Says: of.Says}
			if of.Path == "" {
				r.Path, r.Bytes = channel.ReadFiled(l.Before).Path, 0
			} else if _, made := bytes[of.Key]; !made {
				r.Bytes = -1
			}
			if l.Why.Code != "" {
				r.Says = append([]message.Message{l.Why}, r.Says...)
				r.Failed = ran && !(l.Released == "" && of.Let != "")
			}
			if err := use(r); err != nil {
				return err
			}
		}
		if len(lines) < linesAtOnce {
			break
		}
	}
	row, err := p.Store.PlanByID(ctx, plan)
	if err != nil {
		return err
	}
	var problems []catalogue.Problem
	if err := json.Unmarshal(row.Problems, &problems); err != nil {
		return err
	}
	for _, problem := range problems {
		path, _ := problem.Data["path"].(string)
		if problem.Kept {
			continue // it stands, and is told with what stands
		}
		if err := use(Reported{Path: path, State: LeftOut, Bytes: -1, Says: []message.Message{problem.Message}}); err != nil {
			return err
		}
	}
	return nil
}

// bytesOf are the sizes of what lines hold, by key; what is not made yet is missing.
func (p *Publish) bytesOf(ctx context.Context, lines []ledger.Line) (map[string]int64, error) {
	keys := make([]string, 0, len(lines))
	for _, l := range lines {
		if key := channel.ReadFiled(l.After).Key; key != "" {
			keys = append(keys, key)
		}
	}
	rows, err := p.Store.Renditions(ctx, keys)
	bytes := make(map[string]int64, len(rows))
	for _, r := range rows {
		if r.Made {
			bytes[r.Key] = r.Bytes
		}
	}
	return bytes, err
}
