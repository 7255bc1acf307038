package server

import (
	"maps"
	"net/http"
	"sync"

	"github.com/gofiber/fiber/v3"

	"geminate/brake/job"
)

// Every route has a budget: what an answer costs, how many may be made at once, how many of them for one account, and
// what is answered where that is full. Guests, helpers and strangers have half of each at the most: the rest is the
// staff's, whoever else asks.

// Budget is a sort of cost.
type Budget string

// Budgets.
const (
	Rows    Budget = "rows"     // some rows of the database, or a file: a millisecond
	Writes  Budget = "writes"   // a job's log under its lock: some milliseconds, as far as a log is folded anew a tenth of a second
	Works   Budget = "works"    // the core computes a station: bounded by computeMost
	Prints  Budget = "prints"   // a page is laid out: a tenth of a second
	Bulk    Budget = "bulk"     // a table, a catalogue, a history: seconds
	Worked  Budget = "worked"   // a practice vehicle is worked on
	Ends    Budget = "ends"     // an exercise is ended: the engine works the same vehicle, seconds
	SignsIn Budget = "signs in" // a password is compared, on purpose slowly; its lanes say how often (throttle.go)
)

// Most is what a budget bears: AtOnce on this server, Each of one account. What is more waits for nothing: it is told
// to come again.
type Most struct{ AtOnce, Each int }

// Bears is the table. Assumptions for two cores: forty tablets ask some ten times a second at the most.
var Bears = map[Budget]Most{
	Rows: {256, 48}, Writes: {96, 12}, Works: {32, 8}, Prints: {6, 2}, Bulk: {3, 1}, Worked: {48, 6}, Ends: {3, 1}, SignsIn: {32, 32},
}

// budgetOf is each route's, by its id. A route that is not here does not start (a test).
var budgetOf = map[string]Budget{
	"normal":      Works,
	"play":        Works,
	"diagnose":    Works,
	"whatIf":      Works,
	"measure":     Works,
	"match":       Works,
	"replace":     Works,
	"pushrod":     Works,
	"torque":      Works,
	"preview":     Works,
	"bench":       Works,
	"bleed":       Works,
	"verify":      Works,
	"record":      Works,
	"checkSystem": Works,
	"cutTrace":    Works,
	"jobShelf":    Works,
	"search":      Works,
	"onPhoto":     Works,
	"tilt":        Works,
	"travel":      Works,
	"stop":        Works,
	"met":         Works,

	"description":       Rows,
	"session":           Rows,
	"signOut":           Rows,
	"setPreferences":    Rows,
	"settings":          Rows,
	"setSettings":       Rows,
	"accounts":          Rows,
	"addAccount":        Rows,
	"setAccount":        Rows,
	"accountLink":       Rows,
	"signOutEverywhere": Rows,
	"vehicles":          Rows,
	"vehicle":           Rows,
	"joinVehicle":       Rows,
	"partVehicle":       Rows,
	"vehicleCalendar":   Rows,
	"due":               Rows,
	"shopCalendar":      Rows,
	"bottles":           Rows,
	"experience":        Rows,
	"bringExperience":   Rows,
	"tokens":            Rows,
	"addToken":          Rows,
	"revokeToken":       Rows,
	"addresses":         Rows,
	"trouble":           Rows,
	"vocabulary":        Rows,
	"bay":               Rows,
	"job":               Rows,
	"log":               Rows,
	"instruments":       Rows,
	"addInstrument":     Rows,
	"dropInstrument":    Rows,
	"attachInstrument":  Rows,
	"instrumentLines":   Rows,
	"readings":          Rows,
	"practices":         Rows,
	"practiceResults":   Rows,
	"practiceTable":     Rows,
	"setExercise":       Rows,
	"guestLink":         Rows,
	"guest":             Rows,
	"dropSet":           Rows,
	"audit":             Rows,
	"setShelf":          Rows,
	"importState":       Rows,
	"bore":              Rows,
	"keepPattern":       Rows,
	"dropPattern":       Rows,
	"dress":             Rows,
	"pass":              Rows,
	"jobCall":           Rows,
	"jobSay":            Rows,
	"helperCall":        Rows,
	"helperSay":         Rows,
	"paperPass":         Rows,
	"photo":             Rows,
	"counter":           Rows,
	"askChain":          Rows,
	"figureJobs":        Rows,

	"newJob":      Writes,
	"saveIntake":  Writes,
	"saveChoices": Writes,
	"append":      Writes,
	"appendLog":   Writes,
	"release":     Writes,
	"reopen":      Writes,
	"forget":      Writes,

	"sheet":       Prints,
	"customer":    Prints,
	"paper":       Prints,
	"proof":       Prints,
	"tag":         Prints,
	"labels":      Prints,
	"target":      Prints,
	"warranty":    Prints,
	"certificate": Prints,
	"export":      Prints,

	"statistics":  Bulk,
	"chain":       Bulk,
	"out":         Bulk,
	"importJob":   Bulk,
	"importUnits": Bulk,
	"exportUnits": Bulk,

	"practice":      Worked,
	"practiceAct":   Worked,
	"beginPractice": Worked,
	"bringPractice": Worked,
	"standIns":      Worked,

	"endPractice": Ends,

	"signIn":      SignsIn,
	"first":       SignsIn,
	"welcome":     SignsIn,
	"ownPassword": SignsIn,
}

// Budgets gives each route's, by its id.
func Budgets() map[string]Budget { return maps.Clone(budgetOf) }

// spending counts what is being answered.
type spending struct {
	mu   sync.Mutex
	all  map[Budget]int
	out  map[Budget]int // of them for guests and strangers
	each map[Budget]map[string]int
}

var (
	errBusy    = fiber.NewError(http.StatusServiceUnavailable, "problem.busy")
	errTooMany = fiber.NewError(http.StatusTooManyRequests, "problem.too_many")
)

// enter takes a place of a budget for somebody, until leave. outside says that they are none of the staff.
func (p *spending) enter(b Budget, who string, outside bool) (leave func(), err error) {
	most := Bears[b]
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.all == nil {
		p.all, p.out, p.each = map[Budget]int{}, map[Budget]int{}, map[Budget]map[string]int{}
	}
	if p.each[b] == nil {
		p.each[b] = map[string]int{}
	}
	switch {
	case p.each[b][who] >= most.Each:
		return nil, errTooMany
	case p.all[b] >= most.AtOnce, outside && p.out[b] >= max(1, most.AtOnce/2):
		return nil, errBusy
	}
	p.all[b]++
	p.each[b][who]++
	if outside {
		p.out[b]++
	}
	return func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		p.all[b]--
		if p.each[b][who]--; p.each[b][who] <= 0 {
			delete(p.each[b], who)
		}
		if outside {
			p.out[b]--
		}
	}, nil
}

// spend takes a place for a call.
func (s *server) spend(c *call, id string) (leave func(), err error) {
	who, outside := "address "+s.address(c.Ctx), true
	if c.user != nil {
		who, outside = c.user.ID, c.user.Role == job.Guest
	}
	return s.spending.enter(budgetOf[id], who, outside)
}
