package job

import (
	"slices"
	"strings"

	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/fluid"
	"geminate/brake/verify"
)

// Settings are what is a shop's own to set. They are no part of a job's record: whoever asks hands them in.
type Settings struct {
	Name     string  `json:"name"`
	Address  string  `json:"address"`
	Currency string  `json:"currency"` // its sign or letters
	Hourly   float64 `json:"hourly"`   // rate of an hour's work
	Paper    string  `json:"paper"`    // a4, letter
	Language string  `json:"language"` // of paper: en, es; "" is en
	Zone     string  `json:"zone"`     // IANA name, for paper
	// DueYears is when fluid is due by date, ComebackDays within which a vehicle that is back is a comeback, BottleDays
	// how long a bottle may have stood open.
	DueYears     int `json:"due_years"`
	ComebackDays int `json:"comeback_days"`
	BottleDays   int `json:"bottle_days"`
	// ReleaseBy is the least role that releases.
	ReleaseBy Role `json:"release_by"`
	// Mark is a small picture, a data URL; "" without one.
	Mark string `json:"mark"`
	// Experience says that what this shop has found moves the priors of the diagnosis.
	Experience bool `json:"experience"`
	// ShareVehicles says that other shops of the chain may ask what was done to a vehicle here; off until the lead says
	// so.
	ShareVehicles bool `json:"share_vehicles"`
	// Broker lets instruments in by MQTT, where the operator has opened its port; off until the lead says so.
	Broker bool `json:"broker"`
}

// Sizes of paper.
const (
	PaperA4     = "a4"
	PaperLetter = "letter"
)

// Papers are the sizes printed on.
var Papers = []string{PaperA4, PaperLetter}

// languageMost is the longest a language is named by. Which there are words for is not the core's to know: paper falls
// back to the first.
const languageMost = 12

func languageTag(s string) bool {
	return len(s) <= languageMost &&
		!strings.ContainsFunc(s, func(r rune) bool { return !(r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r == '-') })
}

// markMost is how long a mark's data URL may be.
const markMost = 120 << 10

// DefaultSettings are a shop's before it says otherwise. A year for a bottle, two for fluid, 90 days for a comeback:
// assumptions, and the shop's to change.
func DefaultSettings() Settings {
	return Settings{
		Currency:     "",
		Paper:        "a4",
		Zone:         "UTC",
		DueYears:     changeYears,
		ComebackDays: 90,
		BottleDays:   fluid.OpenMostDays,
		ReleaseBy:    Technician,
	}
}

// Check says what is wrong with them.
func (s *Settings) Check() error {
	for path, t := range map[string]string{"$.name": s.Name, "$.zone": s.Zone, "$.currency": s.Currency} {
		if err := text(path, t, nameMost); err != nil {
			return err
		}
	}
	if err := text("$.address", s.Address, 4*nameMost); err != nil {
		return err
	}
	switch {
	case !slices.Contains(Papers, s.Paper):
		return fault("$.paper", "fault.enum", map[string]any{"value": clip(s.Paper), "allowed": strings.Join(Papers, ", ")})
	case !languageTag(s.Language):
		return fault("$.language", "fault.enum", map[string]any{"value": clip(s.Language), "allowed": "a-z A-Z -"})
	case s.ReleaseBy != Technician && s.ReleaseBy != Lead:
		return fault("$.release_by", "fault.enum", map[string]any{"value": clip(string(s.ReleaseBy)), "allowed": "technician, lead"})
	case len(s.Mark) > markMost || s.Mark != "" && !strings.HasPrefix(s.Mark, "data:image/png;base64,") && !strings.HasPrefix(s.Mark, "data:image/jpeg;base64,"):
		return fault("$.mark", "fault.too_large", map[string]any{"max_bytes": markMost})
	}
	for _, b := range []struct {
		path   string
		v      float64
		lo, hi float64
	}{{"$.hourly", s.Hourly, 0, 100000}, {"$.due_years", float64(s.DueYears), 1, 3}, {"$.comeback_days", float64(s.ComebackDays), 7, BackMostDays}, {"$.bottle_days", float64(s.BottleDays), 7, 730}} {
		if err := inRange(b.path, b.v, b.lo, b.hi); err != nil {
			return err
		}
	}
	return nil
}

// Dress is what a job is looked at with that is no part of its record: whoever asks hands it in.
type Dress struct {
	Settings   *Settings            `json:"settings"`
	Experience *diagnose.Experience `json:"experience"`
	// WaterAYear is the rise of the water by this vehicle's own readings, percent a year; nil where there are not two.
	WaterAYear *float64 `json:"water_a_year"`
	// StrokeS are this shop's own times of a stroke or opening, s, by method; without, the method's own are taken.
	StrokeS map[bleed.Method]float64 `json:"stroke_s,omitempty"`
	// People are the accounts of the shop.
	People []verify.Person `json:"people,omitempty"`
}

// Dress hands a job what is its shop's.
func (j *Job) Dress(d Dress) {
	j.Shop, j.Experience, j.OwnWaterAYear, j.OwnStrokeS = d.Settings, nil, d.WaterAYear, d.StrokeS
	j.People = d.People
	if d.Settings != nil && d.Settings.Experience {
		j.Experience = d.Experience
	}
}

func (j *Job) shop() Settings {
	if j.Shop != nil {
		return *j.Shop
	}
	return DefaultSettings()
}
