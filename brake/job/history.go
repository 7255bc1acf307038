package job

import (
	"context"
	"encoding/json"
	"strings"
	"time"
	"unicode"

	"geminate/brake/diagnose"
	"geminate/brake/match"
)

// What a job leaves behind for lists and statistics.

// Facts are it. Pointers are nil where nobody knows.
type Facts struct {
	VehicleKey string // the plate as it is compared; "" without one
	VIN        string
	Vehicle    string
	Pattern    string
	OpenedAt   time.Time `json:"-"` // the store keeps it
	ReleasedAt *time.Time
	Scope      match.Scope
	// Was is what it really was, Named what the diagnosis put first, Right whether they are the same.
	Was   string
	Named string
	Right *bool
	// First: released, never reopened, and the work never went on after something had been verified.
	First    bool
	Loops    int
	Reopened int
	// UnitMaker and UnitNumber are of what was fitted.
	UnitMaker, UnitNumber string
	Minutes               map[string]float64 // by station
	WheelMinutes          map[string]float64 // by wheel
	MethodMinutes         map[string]float64 // a wheel, by method
	StrokeS               map[string]float64 // by method, of the strokes counted
	WaterBefore           *float64
	WaterAfter            *float64
	FluidDays             *float64 // since the last service, at the intake
	DueAt                 string
	Noted                 []NotedFigure // sizes measured, torques set
	Photos                []Photo
	Seen                  map[string]string // what each sure sign showed, where somebody said what it really was
	Spoke                 []string          // signs that spoke for what it really was
	Lied                  []string          // and against it
}

// PlateKey is a plate as it is compared: letters and digits alone, capitals.
func PlateKey(plate string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToUpper(r)
		}
		return -1
	}, plate)
}

// Facts gathers it. The diagnosis is asked only where somebody said what it really was: it is dear.
func (j *Job) Facts(ctx context.Context) Facts {
	in, st := &j.Intake, &j.State
	if in.Practice {
		return Facts{}
	}
	f := Facts{
		VehicleKey:    PlateKey(in.Plate),
		VIN:           PlateKey(in.VIN),
		Vehicle:       in.Vehicle,
		Pattern:       in.Pattern,
		ReleasedAt:    st.ReleasedAt,
		Scope:         j.Choices.Scope,
		Loops:         st.Loops,
		Reopened:      len(st.Reopenings),
		Minutes:       st.Minutes,
		WheelMinutes:  map[string]float64{},
		MethodMinutes: map[string]float64{},
		StrokeS:       map[string]float64{},
	}
	f.First = st.ReleasedAt != nil && st.Loops == 0 && len(st.Reopenings) == 0
	if u := j.Choices.Unit; u != nil && j.putsOnCylinder() {
		f.UnitMaker, f.UnitNumber = u.Maker, u.Number
	} else if u := j.newBooster(); u != nil && j.putsOnBooster() {
		f.UnitMaker, f.UnitNumber = u.Maker, u.Number
	}
	for id, w := range st.Wheels {
		if !w.BegunAt.IsZero() && w.DoneAt.After(w.BegunAt) {
			f.WheelMinutes[id] = w.DoneAt.Sub(w.BegunAt).Minutes()
		}
	}
	seconds, n, wheels := map[string]float64{}, map[string]int{}, map[string]float64{}
	for id, w := range st.Wheels {
		if m := f.WheelMinutes[id]; m > 0 && w.Method != "" {
			f.MethodMinutes[string(w.Method)] += m
			wheels[string(w.Method)]++
		}
		if m := f.WheelMinutes[id]; m > 0 && st.BleedStrokes[id] > 0 && w.Method != "" {
			seconds[string(w.Method)] += m * 60
			n[string(w.Method)] += st.BleedStrokes[id]
		}
	}
	for m, k := range wheels {
		f.MethodMinutes[m] /= k
	}
	for m, s := range seconds {
		f.StrokeS[m] = s / float64(n[m])
	}
	f.WaterBefore, f.WaterAfter = st.number(PhaseDiagnose, "fluid.water_percent"), st.number(PhaseVerify, "fluid.water_percent")
	if last, err := time.Parse(time.DateOnly, in.LastServiceAt); err == nil && j.CreatedAt.After(last) {
		days := j.CreatedAt.Sub(last).Hours() / 24
		f.FluidDays = &days
	}
	f.Noted, f.Photos = j.noted(), st.Photos
	if st.ReleasedAt != nil && in.System != nil {
		f.DueAt = j.NextDue(*st.ReleasedAt).Day()
	}
	if st.Really != nil && in.System != nil {
		f.Was = st.Really.Fault
		j.holdTo(ctx, &f)
	}
	return f
}

// holdTo holds what the diagnosis said against what it really was.
func (j *Job) holdTo(ctx context.Context, f *Facts) {
	v, err := j.Diagnose(ctx)
	if err != nil || len(v.Result.Faults) == 0 || v.Count == 0 {
		return
	}
	f.Seen = diagnose.SeenIn(j.Case())
	f.Named = v.Result.Faults[0].ID
	right := f.Named == f.Was
	f.Right = &right
	for _, x := range v.Result.Faults {
		if x.ID != f.Was {
			continue
		}
		for _, b := range x.Because {
			if b.For {
				f.Spoke = append(f.Spoke, b.Finding)
			} else {
				f.Lied = append(f.Lied, b.Finding)
			}
		}
		return
	}
}

func (s *State) number(phase, id string) *float64 {
	var x float64
	if f, there := s.Findings[phase][id]; there && json.Unmarshal(f.Value, &x) == nil {
		return &x
	}
	return nil
}

// ── time spent ──

// idle is how long a station may be silent before nobody is taken to work there. Assumption.
const idle = 15 * time.Minute

// stationOf says at which station an event is told.
func stationOf(e *Event) string {
	switch b := e.Body.(type) {
	case *FindingMade:
		return b.Phase
	case *IntakeChanged:
		return "intake"
	case *BenchStroked, *BenchPlugged, *PortCracked:
		return "bench"
	case *BleedStroked, *VolumeMoved, *Filled, *DrawnOff, *WheelSeen, *WheelAgain, *WheelLeft, *OpeningLost, *BleedStepped:
		return "bleed"
	case *Ticked, *PartOff, *PartOn, *Photographed:
		return "replace"
	}
	return ""
}

// spend counts the time since the last event to the station of this one, where somebody was at work.
func (j *Job) spend(e *Event) {
	st := &j.State
	station := stationOf(e)
	if station == "" {
		return
	}
	if gap := e.At.Sub(st.LastAt); !st.LastAt.IsZero() && gap > 0 && gap <= idle {
		next := make(map[string]float64, len(st.Minutes)+1)
		for k, v := range st.Minutes {
			next[k] = v
		}
		next[station] += gap.Minutes()
		st.Minutes = next
	}
	st.LastAt = e.At
}
