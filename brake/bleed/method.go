package bleed

import (
	"cmp"
	"math"
	"slices"

	"geminate/brake/system"
)

// Method is a way to move the fluid, as one practises it.
type Method string

// Methods.
const (
	NoMethod Method = "" // none was chosen: as fits best

	Pedal    Method = "pedal"     // pump, hold, open, close: two people; a trailer's coupler counts as a pedal
	HoldHard Method = "hold_hard" // hold hard, open for two seconds, close: two people
	Bottle   Method = "bottle"    // one person, the hose into a bottle with fluid over its end
	Pressure Method = "pressure"  // at the reservoir
	Vacuum   Method = "vacuum"    // at the bleeder
	Gravity  Method = "gravity"
	Reverse  Method = "reverse" // pushed in at the bleeder by syringe
	ScanTool Method = "scan_tool"
)

// Mover is what moves the fluid.
type Mover string

// Movers.
const (
	ByFoot     Mover = "foot"
	ByHead     Mover = "head"
	ByVacuum   Mover = "vacuum"
	ByPressure Mover = "pressure"
	ByPush     Mover = "push"
	ByTool     Mover = "tool"
)

// Counts is what one counts while bleeding so.
type Counts string

// Counts.
const (
	CountNone     Counts = "" // nothing is bled
	CountOpenings Counts = "openings"
	CountStrokes  Counts = "strokes"
	CountCM3      Counts = "cm3"
	CountPots     Counts = "pots"
	CountSyringes Counts = "syringes"
	CountSteps    Counts = "steps"
)

// Tools of bleeding, beside those of testing.
const (
	ToolBottle   = "bleeder_bottle"
	ToolVacuum   = "vacuum_pump"
	ToolPressure = "pressure_bleeder"
	ToolSyringe  = "syringe_bleeder"
	ToolScan     = "scan_tool"
)

// Tools lists what this package's methods ask for.
var Tools = []string{ToolBottle, ToolVacuum, ToolPressure, ToolSyringe}

// Entry is one method: who and what it takes, what is counted, what to mind.
type Entry struct {
	ID       Method   `json:"id"`
	Mover    Mover    `json:"mover"`
	Hands    int      `json:"hands"`
	Tool     string   `json:"tool,omitempty"`
	Counts   Counts   `json:"counts"`
	Cautions []string `json:"cautions"`
	// Calls says that two people call and answer.
	Calls bool `json:"calls"`
	// PerCountS is the time of one stroke or opening, s; EachWheelMin what a wheel takes beside flow and strokes, min.
	PerCountS    float64 `json:"per_count_s"`
	EachWheelMin float64 `json:"each_wheel_min"`
	// ContainerCM3 is emptied or filled every so often, which takes ContainerS.
	ContainerCM3 float64 `json:"container_cm3"`
	ContainerS   float64 `json:"container_s"`
}

// SyringeCM3 is what one syringe pushes up (how-it-computes, section 8.3).
const SyringeCM3 = 60

// Times of a wheel, assumptions (how-it-computes, section 8.3): hose on, bleeder cracked, off and tightened; one alone
// walks to the seat and back; what the tool's routine takes a wheel.
const (
	setUpMin  = 1.0
	walkMin   = 0.5
	toolMin   = 3.0
	potCM3    = 250
	footMPA   = 1.0 // at which the foot pushes fluid through an open bleeder
	slowMin   = 30  // the longest wheel of a method that is still fit
	inertCM3S = 1e-6
)

// Entries lists the methods in the order they are offered where nothing else decides.
var Entries = []Entry{
	{
		ID:           Pedal,
		Mover:        ByFoot,
		Hands:        2,
		Counts:       CountOpenings,
		Calls:        true,
		PerCountS:    10,
		EachWheelMin: setUpMin,
		Cautions:     []string{"never_lift_open", "block_under_pedal"},
	},
	{
		ID:           HoldHard,
		Mover:        ByFoot,
		Hands:        2,
		Counts:       CountOpenings,
		Calls:        true,
		PerCountS:    7,
		EachWheelMin: setUpMin,
		Cautions:     []string{"never_lift_open", "block_under_pedal"},
	},
	{
		ID:           Bottle,
		Mover:        ByFoot,
		Hands:        1,
		Tool:         ToolBottle,
		Counts:       CountStrokes,
		PerCountS:    3,
		EachWheelMin: setUpMin + 2*walkMin,
		Cautions:     []string{"hose_end_under", "bottle_tips", "block_under_pedal"},
	},
	{
		ID:           Pressure,
		Mover:        ByPressure,
		Hands:        1,
		Tool:         ToolPressure,
		Counts:       CountCM3,
		EachWheelMin: setUpMin,
		Cautions:     []string{"cap_pressure"},
	},
	{
		ID:           Vacuum,
		Mover:        ByVacuum,
		Hands:        1,
		Tool:         ToolVacuum,
		Counts:       CountPots,
		EachWheelMin: setUpMin,
		ContainerCM3: potCM3,
		ContainerS:   30,
		Cautions:     []string{"pot_upright", "close_under_vacuum", "thread_bubbles"},
	},
	{ID: Gravity, Mover: ByHead, Hands: 1, Counts: CountCM3, EachWheelMin: setUpMin, Cautions: []string{"cap_off"}},
	{
		ID:           Reverse,
		Mover:        ByPush,
		Hands:        1,
		Tool:         ToolSyringe,
		Counts:       CountSyringes,
		EachWheelMin: setUpMin,
		ContainerCM3: SyringeCM3,
		ContainerS:   20,
		Cautions:     []string{"draw_down_first", "close_under_pressure"},
	},
	{
		ID:           ScanTool,
		Mover:        ByTool,
		Hands:        2,
		Tool:         ToolScan,
		Counts:       CountSteps,
		EachWheelMin: setUpMin + toolMin,
		Cautions:     []string{"battery_charger", "spurts_normal"},
	},
}

// Find gives a method's entry, nil for none.
func (m Method) Find() *Entry {
	for i := range Entries {
		if Entries[i].ID == m {
			return &Entries[i]
		}
	}
	return nil
}

func (m Method) mover() Mover {
	if e := m.Find(); e != nil {
		return e.Mover
	}
	return ""
}

// Strokes says whether strokes of the foot are counted.
func (m Method) Strokes() bool { return m.mover() == ByFoot }

// MethodIDs lists them.
func MethodIDs() []Method {
	var out []Method
	for _, e := range Entries {
		out = append(out, e.ID)
	}
	return out
}

// ForSystem is what is taken where nobody chose: the foot, by two where there are two; the tool where it leads; the
// syringe on a clutch.
func ForSystem(s *system.System, hands int) Method {
	switch {
	case s.Assist().ToolLed:
		return ScanTool
	case s.IsClutch():
		return Reverse
	case hands == 1 && !s.IsTrailer():
		return Bottle
	}
	return Pedal
}

// Means are who and what there is to bleed with. Tools nil is not stated: all are taken to be there.
type Means struct {
	Hands int
	Tools []string
}

func (m Means) has(tool string) bool {
	return tool == "" || m.Tools == nil || slices.Contains(m.Tools, tool)
}

// Offer is a method held against a vehicle and the means.
type Offer struct {
	Entry
	Fit bool   `json:"fit"`
	Why string `json:"why,omitempty"` // why it does not fit, or what speaks for it
	// Minutes of all wheels, and of the longest.
	Minutes        float64 `json:"minutes"`
	LongestMinutes float64 `json:"longest_minutes"`
	LongestWheel   string  `json:"longest_wheel"`
	Best           bool    `json:"best"`
	// Possible: it can be worked here at all, well or not.
	Possible bool `json:"possible"`
	// UsualKPA is what it is driven with unless somebody says otherwise; 0 where nothing presses.
	UsualKPA float64 `json:"usual_kpa"`
}

// Offers ranks the methods: what fits first, the quickest of them at the top.
func Offers(s *system.System, o Options, means Means) []Offer {
	out := make([]Offer, 0, len(Entries))
	for _, e := range Entries {
		out = append(out, offer(s, o, means, e))
	}
	slices.SortStableFunc(out, func(a, b Offer) int {
		if a.Fit != b.Fit {
			if a.Fit {
				return -1
			}
			return 1
		}
		if !a.Fit {
			return 0
		}
		return cmp.Compare(a.Minutes, b.Minutes)
	})
	if out[0].Fit {
		out[0].Best = true
		out[0].Why = "method_why.quickest"
	}
	return out
}

func offer(s *system.System, o Options, means Means, e Entry) Offer {
	out := Offer{Entry: e, Fit: true, UsualKPA: UsualDriveKPA(e.ID), Possible: Impossible(s, e.ID) == ""}
	out.Cautions = slices.Clone(e.Cautions)
	if s.IsTrailer() { // nobody sits in it
		out.Cautions = slices.DeleteFunc(out.Cautions, func(c string) bool { return c == "never_lift_open" || c == "block_under_pedal" })
		if e.Mover == ByFoot {
			out.Cautions = append(out.Cautions, "coupler_out")
		}
	}
	o = o.with(e.ID)
	flows := true
	for _, id := range o.wheels(s) {
		w := s.Wheel(id)
		if w == nil {
			continue
		}
		volume := WashoutCM3(w.PipeCM3(), w.Brake.CavityCM3, o.OldFraction)
		if o.Purpose == ForAir {
			volume = w.PipeCM3() + w.Brake.CavityCM3
		}
		minutes, moves := wheelMinutes(s, w, o, volume)
		flows = flows && moves
		out.Minutes += minutes
		if minutes > out.LongestMinutes {
			out.LongestMinutes, out.LongestWheel = minutes, id
		}
	}
	if why := unfit(s, o, means, e); why != "" {
		out.Fit, out.Why = false, why
	} else if !flows {
		out.Fit, out.Why = false, "method_why.bubbles_stay"
	} else if out.LongestMinutes > slowMin {
		out.Fit, out.Why = false, "method_why.too_slow"
	}
	if math.IsInf(out.Minutes, 0) || math.IsNaN(out.Minutes) { // nothing flows: no figure to show
		out.Minutes, out.LongestMinutes, out.LongestWheel = 0, 0, ""
	}
	return out
}

// Impossible says why a method cannot do anything on a vehicle, whatever is at hand; "" where it can.
func Impossible(s *system.System, m Method) string {
	tool := s.Assist().ToolLed
	switch {
	case tool && m != ScanTool:
		return "method_why.tool_leads"
	case m == ScanTool && !tool && s.Modulator == nil:
		return "method_why.no_routine"
	case m == ScanTool && !tool:
		return "method_why.after_a_bleed"
	case m.mover() == ByFoot && s.Pedal == nil && !s.IsTrailer(), m == HoldHard && s.IsTrailer():
		return "method_why.no_pedal"
	}
	return ""
}

// unfit says why a method is no way here; "" where it is one.
func unfit(s *system.System, o Options, means Means, e Entry) string {
	if why := Impossible(s, e.ID); why != "" {
		return why
	}
	switch {
	case !means.has(e.Tool):
		return "method_why.tool"
	case means.Hands > 0 && means.Hands < e.Hands && !(s.IsTrailer() && e.Mover == ByFoot):
		return "method_why.hands"
	case e.Mover == ByHead && o.HeadMM <= 0:
		return "method_why.below"
	case e.Mover == ByPush && s.Modulator != nil && o.DirtyUp:
		return "method_why.dirty_into_modulator"
	case e.Mover == ByPush && residualHolds(s, o):
		return "method_why.residual"
	}
	return ""
}

// residualHolds says whether a residual valve holds against what is pushed in at some wheel.
func residualHolds(s *system.System, o Options) bool {
	for _, id := range o.wheels(s) {
		if w := s.Wheel(id); w != nil && driveKPA(s, w, o) <= 0 {
			return true
		}
	}
	return false
}

// wheelMinutes is how long a volume takes at a wheel, and whether the flow carries bubbles along.
func wheelMinutes(s *system.System, w *system.Wheel, o Options, volumeCM3 float64) (minutes float64, carries bool) {
	e := o.Method.Find()
	perCount := e.PerCountS
	if own, ok := o.OwnSeconds[o.Method]; ok && own > 0 {
		perCount = own
	}
	flow := FlowCM3S(s, w, o)
	minutes = e.EachWheelMin
	switch e.Mover {
	case ByTool:
		return minutes, true
	case ByFoot:
		stroke, err := StrokeCM3(s, s.CircuitOf(w.ID), o.StrokeMM)
		if err != nil {
			return math.Inf(1), false
		}
		// The piston is slower in cold fluid: a stroke takes at least what its volume takes through the bleeder.
		pushS := math.Max(pushSeconds, stroke/math.Max(flow, inertCM3S))
		minutes += math.Ceil(volumeCM3/stroke-1e-9) * math.Max(perCount, pushS) / 60
		flow = stroke / pushS
	default:
		if flow <= 0 {
			return math.Inf(1), false
		}
		minutes += volumeCM3 / flow / 60
	}
	if e.ContainerCM3 > 0 {
		minutes += math.Floor(volumeCM3/e.ContainerCM3) * e.ContainerS / 60
	}
	speed := flow * 1000 / area(w.Line.BoreMM)
	return minutes, speed > math.Max(1, BubbleRiseMMS(s, w.Line.BoreMM, o.TemperatureC))
}
