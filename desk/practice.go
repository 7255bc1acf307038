package desk

import (
	"context"

	"geminate/ground/practice"
	"geminate/ground/proving"
)

// Practised asks the vehicle of free practice: how it stands after what was done in it, what an act gives, or what it
// came to. Its truth stays here: none of the answers has it before the end.
type Practised struct {
	ID string `json:"id"`
	practice.Own
	Act *proving.Act `json:"act,omitempty"`
	End bool         `json:"end,omitempty"`
}

// bayOf takes the vehicle up where it stands, as its learner has it.
func (d *Desk) bayOf(in *Practised) (*held, *practice.Bay, error) {
	h := d.jobs[in.ID]
	if h == nil || h.base == nil {
		return nil, nil, errNotHere
	}
	if err := h.showBase(); err != nil {
		return nil, nil, err
	}
	if h.bay == nil || h.bay.Seed != in.Seed || len(h.bay.Did) != len(in.Did) {
		b, err := in.Bay(h.shown.Job, h.shown.Events)
		if err != nil {
			return nil, nil, err
		}
		h.bay = b
	}
	return h, h.bay, nil
}

// Practise does it.
func (d *Desk) Practise(in Practised) (any, error) {
	h, bay, err := d.bayOf(&in)
	if err != nil {
		return nil, err
	}
	if in.End {
		r, err := bay.End(context.Background(), h.shown.Job, h.shown.Events)
		h.bay = nil // ending worked on it
		return r, err
	}
	if in.Act == nil {
		return bay.View(h.shown.Job), nil
	}
	seen, err := bay.Do(h.shown.Job, *in.Act)
	if err != nil {
		return nil, err
	}
	v := bay.View(h.shown.Job)
	v.Seen, v.Done = &seen, &bay.Did[len(bay.Did)-1]
	return v, nil
}
