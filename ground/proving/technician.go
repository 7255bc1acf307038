// Package proving lets technicians that are programs work on simulated vehicles through the job's own commands, by what
// the job tells them, from the complaint to the release and ninety days on, and counts what came of it.
//
// The careful one does what comes next and tells what was read. The hurried one skips acts that ask for no figure and
// ticks them. The slipping one does what hands do wrong, at the trade's rates, and changes its mind. The one with a
// paper list does the same steps without anybody holding one thing against another. Rates are assumptions
// (how-it-computes, section 14).
package proving

// Technician is one way of working.
type Technician struct {
	ID string
	// Skips is the share of acts that ask for no figure that are ticked without being done, and of looks that are told
	// without looking.
	Skips float64
	// Rounds is the share of readings that are told as they should be, not as they are.
	Rounds float64
	// Slips is by what the trade's rates of slips are multiplied.
	Slips float64
	// Changes is the chance of a change of mind before an act.
	Changes float64
	// Offline: the tablet loses the network now and then, and a second pair of hands tells things meanwhile.
	Offline bool
	// Paper: works by the list it began with and lets the vehicle go at its end.
	Paper bool
}

// The technicians.
var (
	Careful  = Technician{ID: "careful"}
	Hurried  = Technician{ID: "hurried", Skips: 0.05, Rounds: 1.0 / 15, Slips: 1}
	Slipping = Technician{ID: "slipping", Slips: 1, Changes: 0.01, Offline: true}
	Paper    = Technician{ID: "paper", Skips: 0.05, Rounds: 1.0 / 15, Slips: 1, Paper: true}
)

// Technicians lists them.
var Technicians = []Technician{Careful, Hurried, Slipping, Paper}

// Slip is something hands do wrong.
type Slip string

// The slips. Why a vehicle went wrong is one of these, a lie about a step or a reading, or what the diagnosis left.
const (
	SlipFootUp     Slip = "foot_up"          // with the bleeder open
	SlipSlack      Slip = "bleeder_slack"    // left so
	SlipOpened     Slip = "opened_once_more" // after its torque, and nipped
	SlipWheel      Slip = "wrong_wheel"      // told one, worked at another
	SlipLevel      Slip = "level_unseen"
	SlipBench      Slip = "bench_rushed"
	SlipCrooked    Slip = "nut_crooked"
	SlipExchanged  Slip = "lines_exchanged"
	SlipUnit       Slip = "torque_unit" // inch-pounds for foot-pounds, and the figure told by rote
	SlipFinger     Slip = "nut_forgotten"
	SlipTray       Slip = "part_in_tray"
	SlipPaper      Slip = "paper_on_face"
	SlipNotBack    Slip = "plug_not_back"
	SlipBottle     Slip = "wrong_bottle"
	SlipAlike      Slip = "look_alike"
	SlipTooFar     Slip = "step_too_far_on" // interrupted, taken up one on
	SlipDoubleTap  Slip = "double_tap"
	SlipCount      Slip = "lost_count"
	SlipRod        Slip = "rod_misread"
	LieStep        Slip = "told_not_done"
	LieLook        Slip = "told_not_looked"
	LieReading     Slip = "told_as_it_should_be"
	LeftByDiagnose Slip = "left_by_diagnosis"
	Unexplained    Slip = "unexplained"
)

// Rates are how often each slip happens, per occasion. Source: the trade's own guesses; assumptions.
var Rates = map[Slip]float64{
	SlipFootUp:    1.0 / 60,
	SlipSlack:     1.0 / 200,
	SlipOpened:    1.0 / 40,
	SlipWheel:     1.0 / 150,
	SlipLevel:     1.0 / 25,
	SlipBench:     1.0 / 8,
	SlipCrooked:   1.0 / 120,
	SlipExchanged: 1.0 / 80,
	SlipUnit:      1.0 / 100,
	SlipFinger:    1.0 / 150,
	SlipTray:      1.0 / 30,
	SlipPaper:     1.0 / 120,
	SlipNotBack:   1.0 / 100,
	SlipBottle:    1.0 / 500,
	SlipAlike:     1.0 / 100,
	SlipTooFar:    1.0 / 300,
	SlipDoubleTap: 1.0 / 200,
	SlipCount:     1.0 / 100,
	SlipRod:       1.0 / 20,
}

// slips says whether one happens now.
func (t *tech) slips(s Slip) bool { return t.way.Slips > 0 && t.rnd.Float64() < Rates[s]*t.way.Slips }

// skips says whether an act without a figure is only told.
func (t *tech) skips() bool { return t.way.Skips > 0 && t.rnd.Float64() < t.way.Skips }

// rounds says whether a reading is told as it should be.
func (t *tech) rounds() bool { return t.way.Rounds > 0 && t.rnd.Float64() < t.way.Rounds }
