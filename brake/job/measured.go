package job

import (
	"errors"
	"math"
	"slices"
	"time"

	"geminate/brake/match"
	"geminate/brake/photo"
)

// PhotoMeasured is a figure taken from a photo of the job: where it was tapped, what edges were found there, and what
// it came to. The figure is worked out again from those before it is let in.
type PhotoMeasured struct {
	// Photo is the event of the picture.
	Photo string           `json:"photo"`
	Field match.PhotoField `json:"field"`
	// Ask holds the one thing that was wanted.
	Ask    photo.Ask `json:"ask"`
	MM     float64   `json:"mm"`
	HalfMM float64   `json:"half_mm"`
}

// PhotoFigure is one such as it stands.
type PhotoFigure struct {
	Photo  string           `json:"photo"`
	Field  match.PhotoField `json:"field"`
	MM     float64          `json:"mm"`
	HalfMM float64          `json:"half_mm"` // of the interval that holds it in 95 of 100
	At     time.Time        `json:"at"`
	By     string           `json:"by"`
}

// Valid implements Body.
func (p *PhotoMeasured) Valid() error {
	switch {
	case p.Photo == "" || len(p.Photo) > nameMost:
		return fault("$.data.photo", "fault.missing", nil)
	case !slices.Contains(match.PhotoFields, p.Field):
		return fault("$.data.field", "fault.enum", map[string]any{"value": clip(string(p.Field)), "allowed": match.PhotoFields})
	case len(p.Ask.Want) != 1:
		return fault("$.data.ask.want", "fault.count", map[string]any{"value": len(p.Ask.Want), "min": 1, "max": 1})
	case !match.PhotoHalfMM.Holds(p.HalfMM):
		return fault("$.data.half_mm", "fault.range",
			map[string]any{"value": p.HalfMM, "min": match.PhotoHalfMM.Min, "max": match.PhotoHalfMM.Max})
	}
	if err := p.Ask.Check(); err != nil {
		return faultsUnder("$.data.ask", err)
	}
	return nil
}

// Check implements Body: the picture is one of the job's, and the figure is what was tapped comes to.
func (p *PhotoMeasured) Check(j *Job) error {
	if !slices.ContainsFunc(j.State.Photos, func(x Photo) bool { return x.ID == p.Photo }) {
		return fault("$.data.photo", "fault.no_such_photo", nil)
	}
	m, err := photo.Measure(p.Ask)
	if err != nil {
		var r *photo.Refused
		if errors.As(err, &r) {
			return r.At("$.data.ask")
		}
		return err
	}
	const same = 0.051 // tenths, by two machines' last digits
	if f := m.Figures[0]; math.Abs(f.TakeMM-p.MM) > same || math.Abs(f.TakeHalfMM-p.HalfMM) > 2*same {
		return fault("$.data.mm", "fault.photo_says_else", map[string]any{"value_mm": p.MM, "says_mm": f.TakeMM})
	}
	return nil
}

// Apply implements Body.
func (p *PhotoMeasured) Apply(j *Job, e *Event) {
	f := PhotoFigure{Photo: p.Photo, Field: p.Field, MM: p.MM, HalfMM: p.HalfMM, At: e.At, By: e.By.Name}
	j.State.PhotoFigures = append(slices.Clone(j.State.PhotoFigures), f)
}
