package server_test

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"errors"
	"image"
	"image/jpeg"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/internal/blobs"
	"geminate/server"
)

// A photo goes in with its event, is brought outside, is shown from there, goes out with the file; lost, it is told as
// lost and the sheet is printed.
func TestAPhotoFromTabletToStoreAndBack(t *testing.T) {
	dir := t.TempDir()
	outside, err := blobs.Open(t.Context(), "file://"+dir)
	require.NoError(t, err)
	c, _ := shop(t, func(cfg *server.Config) { cfg.Store.KeepPictures(outside) })
	id := c.as("mara").pickup()
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 24, 18)), nil))
	pic := b.Bytes()
	view := c.send("POST", "/api/jobs/"+id+"/events",
		event("snap", job.KindPhoto, map[string]any{"jpeg": base64.StdEncoding.EncodeToString(pic)}), 200)
	assert.NotContains(t, toText(t, view), base64.StdEncoding.EncodeToString(pic[:60]))
	path := "/api/jobs/" + id + "/photos/snap"
	show := func() []byte {
		res := c.raw("GET", path, nil, nil)
		defer func() { _ = res.Body.Close() }()
		got, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, res.StatusCode)
		return got
	}
	assert.Equal(t, pic, show())
	var at []string
	require.Eventually(t, func() bool { // the server brings it by itself
		at, err = filepath.Glob(filepath.Join(dir, "*", string(job.SumOf(pic))))
		return err == nil && len(at) == 1
	}, time.Minute, 50*time.Millisecond)
	assert.Equal(t, pic, show())
	file := c.raw("GET", "/api/jobs/"+id+"/export", nil, nil)
	raw, err := io.ReadAll(file.Body)
	require.NoError(t, errors.Join(err, file.Body.Close()))
	assert.Contains(t, string(raw), base64.StdEncoding.EncodeToString(pic), "the file has it")
	require.NoError(t, os.Remove(at[0]))
	assert.Equal(t, "problem.photo_lost", c.get(path, 410)["code"])
	sheet := c.raw("GET", "/api/jobs/"+id+"/sheet.pdf", nil, nil)
	assert.Equal(t, http.StatusOK, sheet.StatusCode)
	require.NoError(t, sheet.Body.Close())
}

func toText(t *testing.T, v any) string {
	t.Helper()
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	return string(raw)
}
