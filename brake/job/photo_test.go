package job

import (
	"bytes"
	"image"
	"image/jpeg"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

func picture(t *testing.T) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 40, 30)), nil))
	return b.Bytes()
}

func TestPhotosStayInTheLogAndOutOfTheView(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	pic := picture(t)
	e := j.add(t, &Photographed{Step: "prepare.tag_lines", Note: "front line left", JPEG: pic})
	require.Len(t, j.State.Photos, 1)
	assert.Equal(t, e.ID, j.State.Photos[0].ID)
	assert.Empty(t, e.Lean().Body.(*Photographed).JPEG)
	assert.Equal(t, pic, e.Body.(*Photographed).JPEG, "the log itself keeps it")
	raw, err := WriteFile(j.Job, j.Events)
	require.NoError(t, err)
	file, err := ReadFile(raw, j.now())
	require.NoError(t, err)
	assert.Equal(t, pic, file.Events[1].Body.(*Photographed).JPEG, "and the job's archive")
	// A log without its pictures folds to the same.
	lean := make([]Event, len(j.Events))
	for i := range j.Events {
		lean[i] = j.Events[i].Lean()
	}
	assert.Equal(t, j.State.Photos, Replay(j.ID, began, lean).State.Photos)
	// Cameras write where they were: such a picture is not taken. After the two bytes every JPEG begins with.
	exif := append([]byte{0xff, 0xd8, 0xff, 0xe1, 0x00, 0x08, 'E', 'x', 'i', 'f', 0, 0}, pic[2:]...)
	assert.ErrorContains(t, j.tell(mara, &Photographed{JPEG: exif}), "fault.photo_place")
	assert.ErrorContains(t, j.tell(mara, &Photographed{JPEG: []byte("GIF89a")}), "fault.not_jpeg")
	assert.ErrorContains(t, j.tell(mara, &Photographed{JPEG: append(pic, make([]byte, PhotoMost)...)}), "fault.too_large")
	huge := bytes.Clone(pic) // a head that says 65535 by 65535: the frame begins two bytes behind its marker (T.81, B.2.2)
	frame := bytes.Index(huge, []byte{0xff, 0xc0})
	require.Positive(t, frame)
	copy(huge[frame+5:], []byte{0xff, 0xff, 0xff, 0xff})
	assert.ErrorContains(t, j.tell(mara, &Photographed{JPEG: huge}), "fault.too_large")
	assert.ErrorContains(t, j.tell(mara, &Photographed{}), "fault.missing")
	for range photosMost - 1 {
		j.add(t, &Photographed{JPEG: pic})
	}
	assert.ErrorContains(t, j.tell(mara, &Photographed{JPEG: pic}), "fault.count")
	j.add(t, &Undone{Of: e.ID})
	assert.Len(t, j.State.Photos, photosMost-1)
}

// ITU-T T.81, annex B: a picture made by an encoder passes, and nothing that could carry words does, wherever it is
// put.
func TestAPictureCarriesNothingButItself(t *testing.T) {
	good := picture(t)
	require.Equal(t, picturePlain, plainPicture(good))
	segment := func(marker byte, body string) []byte {
		return append([]byte{0xff, marker, byte((len(body) + 2) >> 8), byte(len(body) + 2)}, body...)
	}
	insert := func(at int, what ...byte) []byte {
		return append(append(append([]byte{}, good[:at]...), what...), good[at:]...)
	}
	scan := bytes.Index(good, []byte{0xff, markerSOS})
	end := len(good) - 2
	jfif := segment(markerAPP0, "JFIF\x00\x01\x01\x00\x00\x01\x00\x01\x00\x00")
	assert.Equal(t, picturePlain, plainPicture(insert(2, jfif...)))
	for name, raw := range map[string][]byte{
		"Exif":                   insert(2, segment(0xe1, "Exif\x00\x00MM")...),
		"Exif after a JFIF head": insert(2, append(jfif, segment(0xe1, "Exif")...)...),
		"XMP":                    insert(2, segment(0xe1, "adobe")...),
		"a later one":            insert(scan, segment(0xed, "Photoshop")...),
		"after a scan":           insert(end, segment(0xe1, "Exif")...),
	} {
		assert.Equal(t, pictureTold, plainPicture(raw), name)
	}
	for name, raw := range map[string][]byte{
		"a comment":             insert(2, segment(0xfe, "Mill Lane 4")...),
		"a thumbnail":           insert(2, segment(markerAPP0, "JFXX\x00\x10")...),
		"a JFIF head with more": insert(2, segment(markerAPP0, "JFIF\x00\x01\x01\x00\x00\x01\x00\x01\x00\x00and a place")...),
		"fill bytes":            insert(2, 0xff, 0xff),
		"a length too long":     insert(2, 0xff, 0xdb, 0xff, 0xff),
		"a length too short":    insert(2, 0xff, 0xdb, 0, 1),
		"no end":                good[:end],
		"bytes after the end":   append(append([]byte{}, good...), "N 52.1"...),
		"a second picture":      append(append([]byte{}, good...), good...),
		"an unknown marker":     insert(2, segment(0xf0, "x")...),
		"cut short":             good[:scan+1],
	} {
		assert.Equal(t, pictureBroken, plainPicture(raw), name)
	}
}
