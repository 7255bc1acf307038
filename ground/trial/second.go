package trial

import (
	"math"
	"math/rand/v2"
	"slices"

	"geminate/brake/diagnose"
	"geminate/ground/mechanic"
)

// NewSecond is a world drawn from the mechanic's shape, which was written apart from the engine's tables: other places, other
// severities, other signs, and one vehicle in twenty with a trouble that the engine has no name for.
func NewSecond(off float64, seed uint64) *World {
	w := NewWorld(off, seed)
	w.second, w.bent = true, map[[2]string][]float64{}
	rnd := rand.New(rand.NewPCG(seed, 0x2d))
	for _, t := range mechanic.Troubles {
		for _, s := range slices.Concat(t.Shows, t.Here) {
			by := make([]float64, len(s.Faint))
			for i := range by {
				by[i] = math.Exp(off * rnd.NormFloat64())
			}
			w.bent[[2]string{t.ID, s.Sign}] = by
		}
	}
	return w
}

// drawTroubles draws what is wrong by the mechanic's shape.
func (v *Vehicle) drawTroubles() {
	v.had, v.Truth = mechanic.Draw(v.System, v.rnd, v.strange), nil
	for _, h := range v.had {
		if h.Known != "" {
			v.Truth = append(v.Truth, diagnose.Suspect{ID: h.Known, At: h.At})
		}
	}
}

// brought says whether somebody complains of what is really wrong: a vehicle with a trouble nobody feels comes in for nothing,
// and a complaint of nothing comes of the vehicles that are sound.
func (v *Vehicle) brought() bool {
	if !v.world.second || len(v.had) == 0 {
		return len(v.reports) > 0
	}
	return slices.ContainsFunc(v.reports, func(f diagnose.Finding) bool {
		s := diagnose.SignOf(f.ID)
		return s != nil && slices.Contains(complaints, f.ID) && v.shows[f.ID] != s.Values[0] && len(v.troubled(f.ID)) > 0
	})
}

// filled is what is left once it is handed over: nobody hands over an empty reservoir.
func (v *Vehicle) filled(left []diagnose.Suspect) []diagnose.Suspect {
	if !v.world.second {
		return left
	}
	return slices.DeleteFunc(slices.Clone(left), func(t diagnose.Suspect) bool { return t.ID == "fluid.low" })
}

// stillHad are the troubles that are still there: those the diagnosis names until they are cured, the others for good.
func (v *Vehicle) stillHad() (out []mechanic.Had) {
	for _, h := range v.had {
		if h.Known == "" || slices.Contains(v.Truth, diagnose.Suspect{ID: h.Known, At: h.At}) {
			out = append(out, h)
		}
	}
	return out
}

// Unnamed is what it has that the diagnosis has no name for, "" where it has nothing of the kind.
func (v *Vehicle) Unnamed() string {
	for _, h := range v.had {
		if h.Known == "" {
			return h.ID
		}
	}
	return ""
}

// hurts says whether something is left that can take the brakes away.
func (v *Vehicle) hurts(left []diagnose.Suspect) bool {
	if !v.world.second {
		return slices.ContainsFunc(left, func(t diagnose.Suspect) bool { return findFault(t.ID).Unsafe })
	}
	return slices.ContainsFunc(v.stillHad(), func(h mechanic.Had) bool { return h.Hurts })
}

func (v *Vehicle) row(h mechanic.Had, s mechanic.Show) []float64 {
	out, sum, by := s.At(h.Bad), 0.0, v.world.bent[[2]string{h.ID, s.Sign}]
	for i := range out {
		out[i] *= by[i]
		sum += out[i]
	}
	for i := range out {
		out[i] /= sum
	}
	return out
}

// troubled are the rows of a sign of what is there.
func (v *Vehicle) troubled(sign string) (rows [][]float64) {
	for _, h := range v.stillHad() {
		for _, s := range h.Shows {
			if s.Sign == sign {
				rows = append(rows, v.row(h, s))
			}
		}
	}
	return rows
}

// placedChance is the chance of each value of a placed sign at a place: of two troubles there the one that shows more.
func (v *Vehicle) placedChance(p *diagnose.PlacedSign, at string) []float64 {
	if !v.world.second {
		return p.PlacedChance(v.System, v.Truth, at)
	}
	given := p.Base
	for _, h := range v.stillHad() {
		for _, s := range h.Here {
			if row := v.row(h, s); s.Sign == p.ID && h.Reach(v.System, h.At, at) && row[0] < given[0] {
				given = row
			}
		}
	}
	return given
}
