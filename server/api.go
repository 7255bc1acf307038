package server

import (
	"encoding/json"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/trace"
	"geminate/brake/units"
	"geminate/store"
)

// The bodies of the API. Types of the core travel as they are; what stands here is only what the
// web adds to them.

// Problem is the body of every refusal.
type Problem struct {
	Code    string         `json:"code"` // words key
	Detail  string         `json:"detail,omitempty"`
	Faults  []system.Fault `json:"faults,omitempty"`
	Missing []string       `json:"missing,omitempty"` // gates that stand open
	Current *job.View      `json:"current,omitempty"` // what is stored now, where an edit came too late
	// Clashes are the fields that someone else changed otherwise; the two documents are both edits together, those
	// fields as this person or as the other has them.
	Clashes    []job.Clash `json:"clashes,omitempty"`
	WithMine   any         `json:"with_mine,omitempty"`
	WithTheirs any         `json:"with_theirs,omitempty"`
}

// SessionView is who is signed in, or how to.
type SessionView struct {
	User *UserView     `json:"user"`
	Demo []DemoAccount `json:"demo"` // accounts offered with one click; empty outside demo mode
	// First says that the shop has no account yet.
	First bool `json:"first"`
	// Shops says that this installation has several, so that whoever signs in says which; Shop is the one signed in to,
	// "" for the first.
	Shops bool       `json:"shops,omitempty"`
	Shop  store.Code `json:"shop,omitempty"`
}

// UserView is a person as the interface needs them.
type UserView struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Display string        `json:"display"`
	Role    job.Role      `json:"role"`
	Rights  []job.Command `json:"rights"` // what this person may do
	// PracticeRights is what the same person may do on a practice vehicle.
	PracticeRights []job.Command `json:"practice_rights"`
	Units          string        `json:"units"`
	Theme          string        `json:"theme"`
	// Language is "" where the person never chose one.
	Language string `json:"language"`
}

// DemoAccount is a made-up account of demo mode.
type DemoAccount struct {
	Name    string   `json:"name"`
	Display string   `json:"display"`
	Role    job.Role `json:"role"`
}

// SignIn is a name with its password, or a demo account's name alone.
type SignIn struct {
	Name     string `json:"name"`
	Password string `json:"password,omitempty"`
	Demo     bool   `json:"demo,omitempty"`
	// Shop is the code of a further shop of a chain; left out, the first.
	Shop store.Code `json:"shop,omitempty"`
}

// Preferences are a person's own settings.
type Preferences struct {
	Units string `json:"units"` // metric, us, both
	Theme string `json:"theme"` // day, night
	// Language is one of words.Languages; "" is the browser's.
	Language string `json:"language,omitempty"`
}

// Vocabulary is what the interface offers to enter.
type Vocabulary struct {
	Patterns []PatternView `json:"patterns"`
	// OwnPatterns are the shop's own.
	OwnPatterns []job.OwnPattern `json:"own_patterns"`
	Findings    []FindingKind    `json:"findings"`
	Tests       []TestKind       `json:"tests"`
	Tools       []string         `json:"tools"`
	Units       []units.Unit     `json:"units"`
	Checks      []string         `json:"checks"`
	Fluids      []string         `json:"fluids"`
	Scopes      []match.Scope    `json:"scopes"`
	// Assists are the kinds of booster with what each has; Bounds what a typed figure may be, by field.
	Assists []system.Assist        `json:"assists"`
	Bounds  map[string]units.Bound `json:"bounds"`
	// SmallPlaces and SmallParts are what is tapped as it comes off a joint.
	SmallPlaces []string `json:"small_places"`
	// Unit is what a unit is entered from.
	Unit match.UnitVocabulary `json:"unit"`
	// Went is what may become of a unit that came off.
	Went        []string         `json:"went"`
	SmallParts  []string         `json:"small_parts"`
	ParkReasons []job.ParkReason `json:"park_reasons"`
	// Bands and Standings are how the bay sorts its jobs.
	Bands     []job.Band     `json:"bands"`
	Standings []job.Standing `json:"standings"`
	PhotoMost int            `json:"photo_most"` // bytes
	// TiltS is how long a phone feels how a thing lies, s.
	TiltS float64 `json:"tilt_s"`
	// RestS is how long a pedal rests before a phone on it counts, s; PhoneID the instrument such a phone is.
	RestS   float64 `json:"rest_s"`
	PhoneID string  `json:"phone_id"`
	// Tells are the instruments that tell a finding's figure, Drawable the findings that can be drawn and for how long.
	Tells    map[string][]trace.Kind `json:"tells"`
	Drawable []trace.Draw            `json:"drawable"`
	// Origins say where the patterns' figures come from.
	Origins []system.OriginRow `json:"origins"`
}

// PatternView is a pattern with its system.
type PatternView struct {
	ID     string         `json:"id"`
	System *system.System `json:"system"`
}

// FindingKind says how a finding is entered.
type FindingKind struct {
	ID     string   `json:"id"`
	Shape  string   `json:"shape"` // choice, number, list, sink, readings, placed, gauge, texts
	Values []string `json:"values"`
	Min    float64  `json:"min"`
	Max    float64  `json:"max"`
	// Where is where the technician stands when it is met.
	Where diagnose.Where `json:"where"`
}

// TestKind is a test with the findings it yields.
type TestKind struct {
	ID       string           `json:"id"`
	Yields   []string         `json:"yields"`
	Steps    []string         `json:"steps"`
	Cautions []string         `json:"cautions"`
	TimerS   float64          `json:"timer_s"`
	ClockFor string           `json:"clock_for"` // the input that takes the clock's seconds
	Counts   bool             `json:"counts"`    // its figure is counted by tapping
	Inputs   []diagnose.Input `json:"inputs"`
}

// Bay is a page of the jobs.
type Bay struct {
	Jobs   []rawCard        `json:"jobs"`
	Next   string           `json:"next"` // what the next page is asked for with; "" on the last
	Counts []store.BayCount `json:"counts"`
	// Here is who has one of them open, by job.
	Here map[string][]string `json:"here"`
}

// rawCard is a job's card just as it is kept.
type rawCard json.RawMessage

// MarshalJSON gives it as it is.
func (c rawCard) MarshalJSON() ([]byte, error) { return c, nil }

// EventView is an event of the log as it is described; the core writes it itself.
type EventView struct {
	ID       string    `json:"id"`
	Seq      int64     `json:"seq"`
	Kind     job.Kind  `json:"kind"`
	At       time.Time `json:"at"`
	StoredAt time.Time `json:"stored_at"`
	By       job.Actor `json:"by"`
	Data     anyJSON   `json:"data"`
}

// LogView is a part of a job's log.
type LogView struct {
	Events []job.Event `json:"events"`
	More   bool        `json:"more"`
}

// StoredView is what came of events: how far the log goes now, and they as they were stored.
type StoredView struct {
	ID     string      `json:"id"`
	Head   int64       `json:"head"`
	Events []job.Event `json:"events"`
}

// ShelfView are the units that come into question for a job: the shop's shelf, and the nearest of its catalogue.
type ShelfView struct {
	Units []match.Unit `json:"units"`
}

// AuditView is a page of who did what, the newest first.
type AuditView struct {
	Lines []store.Audit `json:"lines"`
	More  bool          `json:"more"`
}

// ReopenIn says why a release is taken back.
type ReopenIn struct {
	Reason string `json:"reason"`
}

// NewJob opens a job on a pattern.
type NewJob struct {
	job.New
	// From is a job to take vehicle, customer and system from; the rest of it is not.
	From string `json:"from,omitempty"`
	// ID and EventID are given by a page that opened it while the server was away; told twice, it is opened once.
	ID      string `json:"id,omitempty"`
	EventID string `json:"event_id,omitempty"`
}

// IntakeEdit replaces the intake that stood at Version.
type IntakeEdit struct {
	Version int64      `json:"version"`
	Intake  job.Intake `json:"intake"`
}

// ChoicesEdit replaces the choices that stood at Version.
type ChoicesEdit struct {
	Version int64       `json:"version"`
	Choices job.Choices `json:"choices"`
}

// EventIn is an event as a client sends it; who and when it was stored are the server's.
type EventIn struct {
	ID   string    `json:"id"`
	Kind job.Kind  `json:"kind"`
	At   time.Time `json:"at"`
	// Base is the head of the log whoever tells it had seen, Device tells apart the devices of one person: from these
	// and the clock comes the order of hands. Left out, the clock alone says.
	Base   int64     `json:"base,omitempty"`
	Device string    `json:"device,omitempty"`
	Data   EventData `json:"data"`
}

// EventData is what an event carries: one of the bodies of the core's kinds, read there.
type EventData struct{ Raw json.RawMessage }

// UnmarshalJSON keeps it as it came.
func (d *EventData) UnmarshalJSON(raw []byte) error {
	d.Raw = append(d.Raw[:0], raw...)
	return nil
}

// MarshalJSON gives it back.
func (d EventData) MarshalJSON() ([]byte, error) { return d.Raw, nil }

// JSONSchemaAnyOf describes it by the bodies of every kind a screen may tell.
func (EventData) JSONSchemaAnyOf() []any { return job.ClientBodies() }

// EventsIn appends events.
type EventsIn struct {
	Events []EventIn `json:"events"`
}

// SystemCheck is a system held against the reader and the twin.
type SystemCheck struct {
	Faults []system.Fault `json:"faults"`
	Normal *job.Normal    `json:"normal"` // nil while there are faults
}

// raw keeps a part of a body as it came, for a strict reader of its own.
type raw = json.RawMessage
