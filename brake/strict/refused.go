package strict

// FaultAt is one fault by itself.
func FaultAt(path, code string, with map[string]any) error {
	return Faults{{Path: path, Code: code, With: with}}
}

// Clip keeps what strangers send out of messages at length.
func Clip(s string) string {
	r := []rune(s)
	return string(r[:min(len(r), 80)])
}

// Refused is something read or measured that gives no figure: why, as a words key, and what it was instead. It is told
// rightly; it just says nothing.
type Refused struct {
	Code string
	With map[string]any
}

// Refuse gives one.
func Refuse(code string, with map[string]any) *Refused { return &Refused{Code: code, With: with} }

func (r *Refused) Error() string { return "no figure: " + r.Code }

// At tells it of the place it was handed in at.
func (r *Refused) At(path string) Faults { return Faults{{Path: path, Code: r.Code, With: r.With}} }
