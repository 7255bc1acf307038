package job

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"geminate/brake/match"
)

// A customer's name goes wherever hands wrote it, whole or by its last word, and nothing else does.
func TestANameIsForgottenInWhatPeopleWrote(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	next := j.Intake
	next.Customer = "Ida  Brunneck"
	edited, err := j.ChangeIntake(j, mara, j.now(), "edit", j.IntakeSeq, next)
	assert.NoError(t, err)
	names := Names(append(j.Events, edited...))
	assert.Equal(t, []string{"Ida Brunneck", "Brunneck"}, names)
	for text, want := range map[string]string{
		"Told Ida Brunneck about the tyres":    "Told – about the tyres",
		"Ms BRUNNECK rang; brunneck's brother": "Ms – rang; –'s brother",
		"Brunneckstrasse is where it stood":    "Brunneckstrasse is where it stood",
		"The bore is 23.8 mm":                  "The bore is 23.8 mm",
	} {
		e := Event{Body: &Noted{Text: text}}
		assert.Equal(t, text != want, Forget(&e, names), text)
		assert.Equal(t, want, e.Body.(*Noted).Text)
	}
	short := Event{Body: &Noted{Text: "Li came"}}
	assert.False(t, Forget(&short, nil))
}
