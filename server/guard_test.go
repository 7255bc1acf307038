package server_test

import (
	"bytes"
	"compress/gzip"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A few kilobytes that become a gigabyte are refused before anything inflates them, signed in or not.
func TestCompressedBodiesAreNeverInflated(t *testing.T) {
	c, _ := shop(t)
	var bomb bytes.Buffer
	z := gzip.NewWriter(&bomb)
	zeros := make([]byte, 1<<20)
	for range 12 {
		_, err := z.Write(zeros)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	send := func(encoding string) int {
		return c.raw("POST", "/api/session", bomb.Bytes(), map[string]string{"Content-Encoding": encoding}).StatusCode
	}
	for _, encoding := range []string{"gzip", "br", "deflate", "zstd", "gzip, gzip"} {
		assert.Equal(t, http.StatusUnsupportedMediaType, send(encoding), encoding)
	}
	c.as("mara")
	assert.Equal(t, http.StatusUnsupportedMediaType, send("gzip"))
}

func TestStrangersGetSixteenKilobytesAndRoutesTheirOwnLimit(t *testing.T) {
	c, _ := shop(t)
	base := c.listen()
	post := func(path string, body []byte, cookie string) int {
		req, err := http.NewRequest("POST", base+path, bytes.NewReader(body))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		if cookie != "" {
			req.AddCookie(&http.Cookie{Name: "geminate_session", Value: cookie})
		}
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		_ = res.Body.Close()
		return res.StatusCode
	}
	big := append([]byte(`{"name":"`), bytes.Repeat([]byte("x"), 20<<10)...)
	assert.Equal(t, http.StatusRequestEntityTooLarge, post("/api/session", big, ""))
	assert.Equal(t, http.StatusRequestEntityTooLarge, post("/api/catalogue/import", big, "made up"),
		"not even on a route that takes large files")
	c.as("mara")
	large := bytes.Repeat([]byte(" "), 100<<10)
	session := c.cookies["geminate_session"]
	assert.Equal(t, http.StatusRequestEntityTooLarge, post("/api/jobs", large, session), "a form is small")
	assert.NotEqual(t, http.StatusRequestEntityTooLarge, post("/api/systems/check", large, session))
}

func TestOnlyJSONIsRead(t *testing.T) {
	c, _ := shop(t)
	res := c.raw("POST", "/api/session", []byte(`{"name":"mara","demo":true}`),
		map[string]string{"Content-Type": "text/plain", "X-Csrf-Token": c.token()})
	assert.Equal(t, http.StatusUnsupportedMediaType, res.StatusCode)
}
