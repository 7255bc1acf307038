package licences

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every module that is linked into the program is named with its text, and so are the page's packages and the fonts.
func TestEverythingLinkedIsNamed(t *testing.T) {
	text, err := Text()
	require.NoError(t, err)
	out, err := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}} {{.Version}}{{end}}{{end}}", "geminate/cmd/geminate").
		Output()
	require.NoError(t, err)
	seen := 0
	for line := range strings.Lines(string(out)) {
		if line = strings.TrimSpace(line); line != "" {
			seen++
			assert.Contains(t, string(text), "== "+line+"\n", "run `make licences`")
		}
	}
	assert.Greater(t, seen, 30)
	for _, name := range []string{"== vue ", "== naive-ui ", "== fonts of the paper", "SIL OPEN FONT LICENSE", "== the Go standard library"} {
		assert.Contains(t, string(text), name)
	}
}
