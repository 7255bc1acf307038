package job

import "slices"

// Role is what a person may do in the shop.
type Role string

// Roles, each with all the rights of those before it.
const (
	NoRole     Role = "" // somebody elsewhere, whose rights count for nothing here
	Trainee    Role = "trainee"
	Technician Role = "technician"
	Lead       Role = "lead"

	// Guest is who came by a link to work one set exercise: it and nothing else of the shop. No lead makes one by hand.
	Guest Role = "guest"
	// Owner is of a chain of shops: its figures, and nobody's jobs. No shop makes one.
	Owner Role = "owner"
)

// Roles lists those of a shop from the least to the most.
var Roles = []Role{Trainee, Technician, Lead}

// Command is one thing a person may want to do.
type Command string

// Commands.
const (
	ReadJobs    Command = "read_jobs"
	OpenJob     Command = "open_job"
	EditIntake  Command = "edit_intake"
	TakeReading Command = "take_reading"
	TickStep    Command = "tick_step"
	CountStroke Command = "count_stroke"
	WriteNote   Command = "write_note"
	UndoOwn     Command = "undo_own"
	SetUp       Command = "set_up" // how the work at hand is done: bench, bleed, bottle, the old unit's measures
	SetOwn      Command = "set_own_preferences"
	LookUp      Command = "look_up" // catalogue, counter, tables: nothing is stored

	TickHighVoltage Command = "tick_high_voltage"
	UndoOthers      Command = "undo_others"
	Decide          Command = "decide" // scope, unit, school
	ChangeSystem    Command = "change_system"
	ReleaseJob      Command = "release_job"
	ReopenJob       Command = "reopen_job"
	BringJobIn      Command = "bring_job_in"
	SetShelf        Command = "set_shelf"
	Practise        Command = "practise"
	AskChain        Command = "ask_chain" // what another shop of the chain knows of a vehicle

	SetCosts        Command = "set_costs"
	TakeFit         Command = "take_fit" // a pedal that changes by more than it may
	ImportCatalogue Command = "import_catalogue"
	ManageAccounts  Command = "manage_accounts"
	ManageSettings  Command = "manage_settings"
	SetExercises    Command = "set_exercises"
	ReadAudit       Command = "read_audit"

	ReadChain Command = "read_chain" // the figures of all shops of a chain
)

// least is the one table of who may do what: the least role each command takes.
var least = map[Command]Role{
	ReadJobs: Trainee, OpenJob: Trainee, EditIntake: Trainee, TakeReading: Trainee, TickStep: Trainee, CountStroke: Trainee,
	WriteNote: Trainee, UndoOwn: Trainee, SetUp: Trainee, SetOwn: Trainee, LookUp: Trainee, Practise: Trainee,

	TickHighVoltage: Technician, UndoOthers: Technician, Decide: Technician, ChangeSystem: Technician, ReleaseJob: Technician,
	ReopenJob: Technician, BringJobIn: Technician, SetShelf: Technician, AskChain: Technician,

	SetCosts: Lead, TakeFit: Lead, ImportCatalogue: Lead, ManageAccounts: Lead, ManageSettings: Lead, ReadAudit: Lead, SetExercises: Lead,

	ReadChain: Owner,
}

// guests is all that a guest may do of the shop; on their own practice vehicle they learn as anybody.
var guests = []Command{Practise, LookUp, SetOwn}

// owners is all that who owns a chain may do.
var owners = []Command{ReadChain, SetOwn}

// Commands lists every command.
func Commands() []Command { return sortedCommands(least) }

// rank is -1 for a role there is not.
func (r Role) rank() int {
	for i, x := range Roles {
		if x == r {
			return i
		}
	}
	return -1
}

// May says whether someone of this role may do something. An unknown role may nothing, an unknown command is
// no one's.
func (r Role) May(c Command) bool {
	need, known := least[c]
	if r == Owner || need == Owner {
		return r == Owner && slices.Contains(owners, c)
	}
	if r == Guest {
		return slices.Contains(guests, c)
	}
	return known && r.rank() >= 0 && r.rank() >= need.rank()
}

// Rights lists what a role may do, for the screens.
func (r Role) Rights() []Command {
	out := []Command{}
	for _, c := range Commands() {
		if r.May(c) {
			out = append(out, c)
		}
	}
	return out
}

// Actor is who does something, as they were called and ranked at that time. Elsewhere marks what a file says
// of another place: a name that nobody here stands for.
type Actor struct {
	ID        string `json:"id"`
	Name      string `json:"name"`
	Role      Role   `json:"role"`
	Elsewhere bool   `json:"elsewhere,omitempty"`
}

// ErrRole is something this person may not do.
type ErrRole struct{ Command Command }

func (e ErrRole) Error() string { return "job: not allowed for this role: " + string(e.Command) }

// must returns an ErrRole unless the actor may.
func (a Actor) must(c Command) error {
	if !a.Role.May(c) {
		return ErrRole{c}
	}
	return nil
}

// PracticeRole is what somebody counts as on a practice vehicle: whoever learns decides there, signs off and is told
// what came of it.
func PracticeRole(r Role) Role {
	if r == Trainee || r == Guest {
		return Technician
	}
	return r
}

// must returns an ErrRole unless the actor may do something on this job.
func (j *Job) must(by Actor, c Command) error {
	if j.Intake.Practice {
		by.Role = PracticeRole(by.Role)
	}
	return by.must(c)
}

func sortedCommands(m map[Command]Role) []Command {
	out := make([]Command, 0, len(m))
	for c := range m {
		out = append(out, c)
	}
	slices.Sort(out)
	return out
}
