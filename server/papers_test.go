package server_test

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The owner's phone reads one paper by its pass, without an account, and nothing else by it.
func TestACustomersPass(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	id := c.pickup()
	path := c.send("POST", "/api/jobs/"+id+"/paper", nil, http.StatusOK)["path"].(string)
	require.Contains(t, path, "/api/papers/")

	phone := &client{t: t, app: c.app, cookies: map[string]string{}, router: c.router}
	got := phone.raw("GET", path, nil, nil)
	assert.Equal(t, http.StatusOK, got.StatusCode)
	assert.Equal(t, "application/pdf", got.Header.Get("Content-Type"))
	for _, other := range []string{"/api/jobs/" + id, "/api/jobs/" + id + "/sheet.pdf", "/api/jobs/" + id + "/customer.pdf", "/api/jobs"} {
		assert.Equal(t, http.StatusUnauthorized, phone.raw("GET", other, nil, nil).StatusCode, other)
	}
	token := path[len("/api/papers/"):]
	for _, wrong := range []string{"/api/papers/nobody", "/api/papers/" + id, path + "x", "/api/calls/" + token} {
		assert.Equal(t, http.StatusForbidden, phone.raw("GET", wrong, nil, nil).StatusCode, wrong)
	}
}
