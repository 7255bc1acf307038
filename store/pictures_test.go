package store

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"image"
	"image/color"
	"image/jpeg"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/internal/blobs"
)

// pictureOf makes a picture of one shade.
func pictureOf(t *testing.T, shade uint8) []byte {
	t.Helper()
	m := image.NewGray(image.Rect(0, 0, 24, 18))
	for i := range m.Pix {
		m.Pix[i] = color.Gray{Y: shade}.Y
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, m, nil))
	return b.Bytes()
}

func photo(t *testing.T, id string, pic []byte) job.In {
	t.Helper()
	raw, err := json.Marshal(job.Photographed{Note: "seen", JPEG: pic})
	require.NoError(t, err)
	return job.In{ID: id, Kind: job.KindPhoto, At: day.Add(time.Hour), Data: raw}
}

// outsideOf keeps a store's pictures in a folder, or where a store that speaks S3 is named (scripts/s3 starts one)
// there.
func outsideOf(t *testing.T, s *Store) blobs.Bucket {
	t.Helper()
	address := "file://" + t.TempDir()
	if s3 := os.Getenv("GEMINATE_TEST_S3"); s3 != "" {
		address = s3
	}
	b, err := blobs.Open(ctx, address)
	require.NoError(t, err)
	s.KeepPictures(b)
	return b
}

func told(t *testing.T, s *Store, id, event string) *job.Photographed {
	t.Helper()
	found, err := s.Events(ctx, id, []string{event})
	require.NoError(t, err)
	p, is := found[event].Body.(*job.Photographed)
	require.True(t, is)
	return p
}

func TestAPictureLiesApartFromTheLog(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	add(t, s, "b")
	one, two := pictureOf(t, 40), pictureOf(t, 200)
	for range 2 { // sent again, it is the same
		_, err := tell(s, "a", photo(t, "p1", one), photo(t, "p2", two))
		require.NoError(t, err)
	}
	_, err := tell(s, "a", photo(t, "p1", two))
	require.Error(t, err, "another picture under the same id")
	_, err = tell(s, "b", photo(t, "p3", one))
	require.NoError(t, err)
	var longest int
	require.NoError(t, s.db.Raw("SELECT MAX(LENGTH(data)) FROM log WHERE kind = 'photo'").Scan(&longest).Error)
	assert.Less(t, longest, 150, "its sum alone is in the log")
	assert.Len(t, rowsOf(t, s, "pictures"), 2, "one picture told twice is kept once")
	j, err := s.Job(ctx, "a")
	require.NoError(t, err)
	got, err := s.Photos(ctx, j)
	require.NoError(t, err)
	assert.Equal(t, [][]byte{one, two}, got)
	// A file carries them.
	events, err := s.Log(ctx, "a", 0, 0)
	require.NoError(t, err)
	events, err = s.WithPictures(ctx, events)
	require.NoError(t, err)
	raw, err := job.WriteFile(j, events)
	require.NoError(t, err)
	back, err := job.ReadFile(raw, day.Add(48*time.Hour))
	require.NoError(t, err)
	assert.Equal(t, one, back.Events[1].Body.(*job.Photographed).JPEG)
}

// A picture is brought outside and read from there; one that is nowhere is told as lost, and the rest goes on.
func TestPicturesAreBroughtOutside(t *testing.T) {
	s := open(t)
	outside := outsideOf(t, s)
	add(t, s, "a")
	one, two := pictureOf(t, 40), pictureOf(t, 200)
	_, err := tell(s, "a", photo(t, "p1", one), photo(t, "p2", two))
	require.NoError(t, err)
	var wg sync.WaitGroup
	for range 3 { // several servers at once
		wg.Go(func() {
			for range 4 {
				_, err := s.BringPictures(ctx)
				assert.NoError(t, err)
			}
		})
	}
	wg.Wait()
	assert.Empty(t, rowsOf(t, s, "pictures"), "they have left the table")
	j, err := s.Job(ctx, "a")
	require.NoError(t, err)
	got, err := s.Photos(ctx, j)
	require.NoError(t, err)
	assert.Equal(t, [][]byte{one, two}, got)
	require.NoError(t, outside.Drop(ctx, s.pictureName(job.SumOf(two))))
	got, err = s.Photos(ctx, j)
	require.NoError(t, err)
	assert.Equal(t, [][]byte{one, nil}, got)
	_, err = s.Picture(ctx, told(t, s, "a", "p2"))
	require.ErrorIs(t, err, ErrPictureLost)
	require.NoError(t, outside.Put(ctx, s.pictureName(job.SumOf(one)), two))
	_, err = s.Picture(ctx, told(t, s, "a", "p1"))
	require.ErrorIs(t, err, ErrPictureLost, "what lies there is not what was brought")
	found, err := s.Check(ctx)
	require.NoError(t, err)
	require.Len(t, found, 2)
	assert.Equal(t, Difference{What: "pictures", Of: "a 2", Kept: string(job.SumOf(one)), Is: "lost"}, found[0])
	// Told again, by another job, it is to be had again.
	add(t, s, "b")
	_, err = tell(s, "b", photo(t, "p3", two))
	require.NoError(t, err)
	again, err := s.Picture(ctx, told(t, s, "a", "p2"))
	require.NoError(t, err)
	assert.Equal(t, two, again)
}

// silent is a store that does not answer.
type silent struct{ blobs.Bucket }

var errSilent = errors.New("silent")

func (silent) Put(context.Context, string, []byte) error { return errSilent }

// lossy says yes and keeps nothing.
type lossy struct{ blobs.Bucket }

func (lossy) Put(context.Context, string, []byte) error { return nil }

func TestAStoreThatFailsLosesNothing(t *testing.T) {
	s := open(t)
	outside := outsideOf(t, s)
	one := pictureOf(t, 90)
	add(t, s, "a")
	for _, b := range []blobs.Bucket{silent{outside}, lossy{outside}} {
		s.KeepPictures(b)
		_, err := tell(s, "a", photo(t, "p1", one))
		require.NoError(t, err, "telling waits for no store")
		_, err = s.BringPictures(ctx)
		require.Error(t, err)
		got, err := s.Picture(ctx, told(t, s, "a", "p1"))
		require.NoError(t, err)
		assert.Equal(t, one, got)
		assert.Len(t, rowsOf(t, s, "pictures"), 1)
	}
}

func TestForgettingTakesPicturesOut(t *testing.T) {
	s := open(t)
	outside := outsideOf(t, s)
	add(t, s, "a")
	add(t, s, "b")
	own, shared, late := pictureOf(t, 10), pictureOf(t, 120), pictureOf(t, 240)
	_, err := tell(s, "a", photo(t, "p1", own), photo(t, "p2", shared))
	require.NoError(t, err)
	_, err = tell(s, "b", photo(t, "q", shared))
	require.NoError(t, err)
	_, err = s.BringPictures(ctx)
	require.NoError(t, err)
	_, err = tell(s, "a", photo(t, "p3", late))
	require.NoError(t, err)
	_, err = s.Forget(ctx, "a", &Audit{At: day, Action: "customer_forgotten"})
	require.NoError(t, err)
	for _, sum := range []job.PictureSum{job.SumOf(own), job.SumOf(late)} {
		_, err = outside.Get(ctx, s.pictureName(sum))
		require.ErrorIs(t, err, blobs.ErrNotFound)
	}
	assert.Empty(t, rowsOf(t, s, "pictures"))
	for _, id := range []string{"p1", "p2", "p3"} {
		_, err = s.Picture(ctx, told(t, s, "a", id))
		require.ErrorIs(t, err, ErrPictureGone)
	}
	got, err := s.Picture(ctx, told(t, s, "b", "q"))
	require.NoError(t, err, "another job's stays")
	assert.Equal(t, shared, got)
	found, err := s.Check(ctx)
	require.NoError(t, err)
	assert.Empty(t, found, "taken out is not lost")
}

// A backup takes pictures along wherever they lie; a restore has them in the table, to be brought on.
func TestABackupTakesPicturesAlong(t *testing.T) {
	s := open(t)
	outside := outsideOf(t, s)
	add(t, s, "a")
	there, here, lost := pictureOf(t, 10), pictureOf(t, 120), pictureOf(t, 240)
	_, err := tell(s, "a", photo(t, "p1", there), photo(t, "p2", lost))
	require.NoError(t, err)
	_, err = s.BringPictures(ctx)
	require.NoError(t, err)
	_, err = tell(s, "a", photo(t, "p3", here))
	require.NoError(t, err)
	require.NoError(t, outside.Drop(ctx, s.pictureName(job.SumOf(lost))))
	var archive bytes.Buffer
	m, err := s.Backup(ctx, &archive)
	require.NoError(t, err)
	assert.EqualValues(t, 2, m.Rows["pictures"])
	assert.EqualValues(t, 1, m.LostPictures)
	fresh := open(t)
	_, err = fresh.Restore(ctx, bytes.NewReader(archive.Bytes()), int64(archive.Len()))
	require.NoError(t, err)
	for id, want := range map[string][]byte{"p1": there, "p3": here} {
		got, err := fresh.Picture(ctx, told(t, fresh, "a", id))
		require.NoError(t, err)
		assert.Equal(t, want, got, id)
	}
}

// A log from before there was a place for pictures has them in it: they are shown, and taken apart when somebody asks
// for it.
func TestPicturesOfAnOlderLog(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	pic := pictureOf(t, 60)
	_, err := tell(s, "a", photo(t, "p1", pic))
	require.NoError(t, err)
	old, err := encode(job.Photographed{Note: "seen", JPEG: pic})
	require.NoError(t, err)
	require.NoError(t, s.db.Exec("UPDATE log SET data = ? WHERE kind = 'photo'", old).Error)
	require.NoError(t, s.db.Exec("DELETE FROM pictures").Error)
	require.NoError(t, s.db.Exec("DELETE FROM job_pictures").Error)
	got, err := s.Picture(ctx, told(t, s, "a", "p1"))
	require.NoError(t, err)
	assert.Equal(t, pic, got)
	_, err = tell(s, "a", photo(t, "p1", pic))
	require.NoError(t, err, "sent again it is the same there too")
	found, err := s.Check(ctx)
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.Equal(t, picturesInLog, found[0].What)
	require.NoError(t, s.Recount(ctx, found))
	found, err = s.Check(ctx)
	require.NoError(t, err)
	assert.Empty(t, found)
	p := told(t, s, "a", "p1")
	assert.Empty(t, p.JPEG)
	assert.Equal(t, "seen", p.Note)
	got, err = s.Picture(ctx, p)
	require.NoError(t, err)
	assert.Equal(t, pic, got)
	assert.False(t, strings.Contains(rowsOf(t, s, "log")[1]["data"].(string), "jpeg"))
}
