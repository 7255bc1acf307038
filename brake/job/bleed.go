package job

import (
	"math"

	"geminate/brake/bleed"
	"geminate/brake/system"
)

// BleedView is the Bleed station.
type BleedView struct {
	Applies    bool                  `json:"applies"`
	Why        string                `json:"why,omitempty"`
	Plan       *bleed.Plan           `json:"plan"`
	Wheels     map[string]WheelState `json:"wheels"`
	Current    string                `json:"current"` // wheel to work at, "" when done
	LevelCM3   float64               `json:"level_cm3"`
	FullCM3    float64               `json:"full_cm3"`
	LowestCM3  float64               `json:"lowest_cm3"`
	RefillIn   int                   `json:"refill_in_strokes"` // before the reservoir must be filled; −1 where strokes do not count
	RefillNow  bool                  `json:"refill_now"`
	UsedCM3    float64               `json:"used_cm3"`
	RanDry     bool                  `json:"ran_dry"`    // the level fell to the lowest port: air went in
	LastUndo   string                `json:"last_event"` // what undo takes back
	OpenWheels []string              `json:"open_wheels"`
	// LeastGapS is the time under which a second tap is the same stroke.
	LeastGapS float64 `json:"least_gap_s"`
}

// strokeGapS: no foot or hand makes two slow strokes in this time; a glove that bounces does. Assumption.
const strokeGapS = 0.4

// WheelState is a wheel as worked so far.
type WheelState struct {
	Strokes int     `json:"strokes"`
	CM3     float64 `json:"cm3"`
	Clear   bool    `json:"clear"`
	Enough  bool    `json:"enough"` // the computed volume is through
	Done    bool    `json:"done"`
}

// Bleed plans the route and lays what was counted over it.
func (j *Job) Bleed() (*BleedView, error) {
	v := &BleedView{Wheels: map[string]WheelState{}, OpenWheels: []string{}, RefillIn: -1, LeastGapS: strokeGapS}
	if j.Intake.System == nil {
		return nil, system.Faults{{Path: "$.intake.system", Code: "fault.missing"}}
	}
	if !j.opens() {
		v.Why = j.nothingToBleed()
		return v, nil
	}
	v.Applies = true
	s := j.Fitted()
	p, err := bleed.Make(s, j.Choices.Bleed.options())
	if err != nil {
		return nil, err
	}
	v.Plan = p
	st := &j.State
	stroke := map[string]float64{}
	for _, w := range p.Wheels {
		stroke[w.ID] = w.StrokeCM3
		ws := WheelState{Strokes: st.BleedStrokes[w.ID], CM3: st.BleedCM3[w.ID], Clear: st.Clear[w.ID]}
		// Computed volume is through, and the technician has seen it come clear.
		ws.Enough = ws.CM3 >= w.VolumeCM3*0.999
		ws.Done = ws.Clear && ws.Enough
		v.Wheels[w.ID] = ws
		v.UsedCM3 += ws.CM3
		if !ws.Done {
			v.OpenWheels = append(v.OpenWheels, w.ID)
			if v.Current == "" {
				v.Current = w.ID
			}
			// A circuit that ran dry has air from its cylinder on, until all its wheels are done again.
			v.RanDry = v.RanDry || st.Dry[w.Circuit]
		}
	}
	v.LastUndo = st.LastStroke["bleed"]
	v.FullCM3, v.LowestCM3 = bleed.ReservoirCM3(s)
	v.LevelCM3 = v.FullCM3 - st.DrawnCM3
	v.RanDry = v.RanDry || (st.DrawnCM3 > 0 && v.LevelCM3 <= v.LowestCM3+1e-9)
	keep := v.FullCM3 - p.UsableCM3 // lowest port and margin
	if per := stroke[v.Current]; per > 0 {
		v.RefillIn = max(0, int(math.Floor((v.LevelCM3-keep)/per+1e-9)))
		v.RefillNow = v.RefillIn == 0
	} else {
		v.RefillNow = v.LevelCM3 <= keep+1e-9
	}
	return v, nil
}
