package job

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"regexp"
	"time"

	"geminate/brake/system"
)

// PhotoMost is how many bytes a photo may have: it is shrunk in the browser.
const PhotoMost = 300 << 10

// photosMost is how many a job may have; a job file with all of them still fits its reader.
const photosMost = 24

// Photographed is a picture of the work at a step. The picture itself is told with the event and kept apart from it,
// under the sum of its bytes; a log that is handed to screens leaves it out: it is fetched where it is looked at.
type Photographed struct {
	Step string     `json:"step,omitempty"`
	Note string     `json:"note,omitempty"`
	JPEG []byte     `json:"jpeg,omitempty"`
	Sum  PictureSum `json:"sum,omitempty"`
	// Gone says that it was taken out with its owner's name.
	Gone bool `json:"gone,omitempty"`
}

// PictureSum is the SHA-256 of a picture's bytes (FIPS 180-4) in hexadecimal.
type PictureSum string

var sumForm = regexp.MustCompile(`^[0-9a-f]{64}$`)

// SumOf gives a picture's.
func SumOf(jpeg []byte) PictureSum {
	sum := sha256.Sum256(jpeg)
	return PictureSum(hex.EncodeToString(sum[:]))
}

// Apart gives the event's body as it is kept, and the picture that is kept apart; nil where there is none in it.
func (p *Photographed) Apart() (kept *Photographed, jpeg []byte) {
	if len(p.JPEG) == 0 {
		return p, nil
	}
	return &Photographed{Step: p.Step, Note: p.Note, Sum: SumOf(p.JPEG), Gone: p.Gone}, p.JPEG
}

// likeness is what two tellings of one photo have in common, wherever the picture is.
func (p *Photographed) likeness() Body {
	kept, _ := p.Apart()
	return kept
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
	if p.Sum != "" && !sumForm.MatchString(string(p.Sum)) {
		return fault("$.data.sum", "fault.photo_sum", nil)
	}
	switch {
	case len(p.JPEG) == 0:
		return nil // left out of a log
	case p.Gone, p.Sum != "" && p.Sum != SumOf(p.JPEG):
		return fault("$.data.sum", "fault.photo_sum", nil)
	case len(p.JPEG) > PhotoMost:
		return fault("$.data.jpeg", "fault.too_large", map[string]any{"max_bytes": PhotoMost})
	case !bytes.HasPrefix(p.JPEG, []byte{0xff, 0xd8, 0xff}):
		return fault("$.data.jpeg", "fault.not_jpeg", nil)
	}
	switch plainPicture(p.JPEG) {
	case pictureTold:
		return fault("$.data.jpeg", "fault.photo_place", nil)
	case pictureHuge:
		return fault("$.data.jpeg", "fault.too_large", map[string]any{"max_bytes": PhotoMost})
	}
	return nil
}

// What a JPEG is found to be.
type jpegKind int

const (
	picturePlain  jpegKind = iota
	pictureTold            // a segment in which cameras and programs write where and when it was taken: Exif and XMP, IPTC
	pictureHuge            // more pixels than anything should have to unpack
	pictureBroken          // anything else that a drawing made anew has no need of, or not what the format says
)

// jpeg markers, by ITU-T T.81 (1992), annex B.
const (
	markerSOI, markerEOI, markerSOS    = 0xd8, 0xd9, 0xda
	markerDQT, markerDHT, markerDRI    = 0xdb, 0xc4, 0xdd
	markerAPP0, markerEXIF, markerIPTC = 0xe0, 0xe1, 0xed
	markerRSTFirst, markerRSTLast      = 0xd0, 0xd7
	markerFrameFirst, markerFrameLast  = 0xc0, 0xcf
	markerJPG, markerDAC               = 0xc8, 0xcc
)

// plainPicture walks a JPEG from its first byte to its last: a drawing made anew by the browser has tables, frames and
// scans, and a JFIF head, and nothing else. What is before, between or after them may tell anything, so it is let in
// nowhere: fill bytes, a length that does not fit, a segment of another kind after a scan, bytes after the end.
func plainPicture(jpeg []byte) jpegKind {
	at, ended := 2, false
	for at < len(jpeg) {
		if ended || at+2 > len(jpeg) || jpeg[at] != 0xff {
			return pictureBroken
		}
		marker := jpeg[at+1]
		at += 2
		if marker == markerEOI {
			ended = true
			continue
		}
		if at+2 > len(jpeg) {
			return pictureBroken
		}
		long := int(binary.BigEndian.Uint16(jpeg[at:]))
		if long < 2 || at+long > len(jpeg) {
			return pictureBroken
		}
		switch {
		case marker == markerAPP0 && bytes.HasPrefix(jpeg[at+2:at+long], []byte("JFIF\x00")) && long == jfifLong:
		case marker == markerEXIF, marker == markerIPTC:
			return pictureTold
		case marker == markerDQT, marker == markerDHT, marker == markerDRI, marker == markerSOS:
		case marker >= markerFrameFirst && marker <= markerFrameLast && marker != markerJPG && marker != markerDAC:
			if tooManyPixels(jpeg[at : at+long]) {
				return pictureHuge
			}
		default:
			return pictureBroken
		}
		at += long
		if marker == markerSOS {
			at = afterScan(jpeg, at)
		}
	}
	if !ended {
		return pictureBroken
	}
	return picturePlain
}

// sideMost and pixelsMost bound what a picture's head may say of its size: the browser shrinks to far less.
// Assumptions.
const (
	sideMost   = 8000
	pixelsMost = 24 << 20
)

// tooManyPixels reads a frame's head: length, precision, lines, samples a line (T.81, B.2.2).
func tooManyPixels(frame []byte) bool {
	if len(frame) < 7 {
		return false
	}
	high, wide := int(binary.BigEndian.Uint16(frame[3:])), int(binary.BigEndian.Uint16(frame[5:]))
	return high > sideMost || wide > sideMost || high*wide > pixelsMost
}

// jfifLong is the length of a JFIF head with no thumbnail in it: a thumbnail is a picture of its own.
const jfifLong = 16

// afterScan is where the coded data of a scan ends: at the next marker that is neither a stuffed byte nor a restart.
func afterScan(jpeg []byte, at int) int {
	for at+1 < len(jpeg) {
		if jpeg[at] == 0xff && jpeg[at+1] != 0 && (jpeg[at+1] < markerRSTFirst || jpeg[at+1] > markerRSTLast) {
			return at
		}
		at++
	}
	return len(jpeg)
}

// Check implements Body.
func (p *Photographed) Check(j *Job) error {
	if len(p.JPEG) == 0 {
		return fault("$.data.jpeg", "fault.missing", nil)
	}
	// Asked of what is told now; what an older log holds is read as it is.
	if plainPicture(p.JPEG) != picturePlain {
		return fault("$.data.jpeg", "fault.not_jpeg", nil)
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
		kept, _ := p.Apart()
		e.Body = kept
	}
	return e
}
