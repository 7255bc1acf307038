package job

import (
	"bytes"
	"encoding/binary"
	"time"

	"geminate/brake/system"
)

// PhotoMost is how many bytes a photo may have: it is shrunk in the browser.
const PhotoMost = 300 << 10

// photosMost is how many a job may have; a job file with all of them still fits its reader.
const photosMost = 24

// Photographed is a picture of the work at a step. A log that is handed to screens leaves the picture itself out: it is
// fetched where it is looked at.
type Photographed struct {
	Step string `json:"step,omitempty"`
	Note string `json:"note,omitempty"`
	JPEG []byte `json:"jpeg,omitempty"`
}

// Photo is one of the job's photos.
type Photo struct {
	ID   string    `json:"id"` // of its event
	Step string    `json:"step"`
	Note string    `json:"note,omitempty"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
}

// Valid implements Body.
func (p *Photographed) Valid() error {
	if len(p.Step) > 64 {
		return fault("$.data.step", "fault.too_long", map[string]any{"max": 64})
	}
	if err := text("$.data.note", p.Note, 4*nameMost); err != nil {
		return err
	}
	switch {
	case len(p.JPEG) == 0:
		return nil // left out of a log
	case len(p.JPEG) > PhotoMost:
		return fault("$.data.jpeg", "fault.too_large", map[string]any{"max_bytes": PhotoMost})
	case !bytes.HasPrefix(p.JPEG, []byte{0xff, 0xd8, 0xff}):
		return fault("$.data.jpeg", "fault.not_jpeg", nil)
	case tellsPlace(p.JPEG):
		return fault("$.data.jpeg", "fault.photo_place", nil)
	}
	return nil
}

// tellsPlace walks a JPEG's segments for one in which cameras write where and when a picture was taken (APP1: Exif and
// XMP; APP13). A drawing made anew by the browser has none.
func tellsPlace(jpeg []byte) bool {
	for i := 2; i+4 <= len(jpeg) && jpeg[i] == 0xff; {
		marker := jpeg[i+1]
		switch {
		case marker == 0xe1 || marker == 0xed:
			return true
		case marker == 0xda || marker == 0xd9: // the picture itself begins
			return false
		}
		i += 2 + int(binary.BigEndian.Uint16(jpeg[i+2:]))
	}
	return false
}

// Check implements Body.
func (p *Photographed) Check(j *Job) error {
	if len(p.JPEG) == 0 {
		return fault("$.data.jpeg", "fault.missing", nil)
	}
	if n := len(j.State.Photos); n >= photosMost {
		return system.Faults{{Path: "$.data", Code: "fault.count", With: map[string]any{"value": n + 1, "min": 0, "max": photosMost}}}
	}
	return nil
}

// Apply implements Body: the picture stays in the log.
func (p *Photographed) Apply(j *Job, e *Event) {
	photos := append([]Photo{}, j.State.Photos...)
	j.State.Photos = append(photos, Photo{ID: e.ID, Step: p.Step, Note: p.Note, At: e.At, By: e.By.Name})
}

// Lean is the event as screens get it in a log: a photo without its picture.
func (e Event) Lean() Event {
	if p, ok := e.Body.(*Photographed); ok {
		e.Body = &Photographed{Step: p.Step, Note: p.Note}
	}
	return e
}
