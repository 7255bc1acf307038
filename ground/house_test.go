// Package ground_test holds the walls of the house: which room may lean on which.
package ground_test

import (
	"encoding/json"
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type room struct {
	ImportPath string
	Imports    []string // by the program itself, not by its tests
}

// rooms are the packages of the module, with what each imports of it.
func rooms(t *testing.T) map[string][]string {
	t.Helper()
	raw, err := exec.Command("go", "list", "-json=ImportPath,Imports", "geminate/...").Output()
	require.NoError(t, err)
	out := map[string][]string{}
	for d := json.NewDecoder(strings.NewReader(string(raw))); d.More(); {
		var r room
		require.NoError(t, d.Decode(&r))
		own := []string{}
		for _, i := range r.Imports {
			if rest, ok := strings.CutPrefix(i, "geminate/"); ok {
				own = append(own, rest)
			}
		}
		slices.Sort(own)
		out[strings.TrimPrefix(r.ImportPath, "geminate/")] = own
	}
	return out
}

// What computes knows nothing of what judges it, nor of a database, a server or words; and the judge's vehicle knows
// nothing of the job.
func TestWhatComputesAndWhatJudgesAreApart(t *testing.T) {
	all := rooms(t)
	require.Greater(t, len(all), 30)
	for name, imports := range all {
		if !strings.HasPrefix(name, "brake/") {
			continue
		}
		for _, i := range imports {
			assert.True(t, strings.HasPrefix(i, "brake/"), "%s leans on %s: the core leans on itself alone", name, i)
		}
	}
	assert.Equal(t, []string{"brake/system", "brake/twin"}, all["ground/simulate"], "the judge's vehicle shares no rule of the job")
	assert.Equal(t, []string{"brake/system"}, all["ground/mechanic"], "the second world shares no table with the first")
	for name, imports := range all {
		if !strings.HasPrefix(name, "ground/") {
			continue
		}
		for _, i := range imports {
			assert.True(t, strings.HasPrefix(i, "brake/") || strings.HasPrefix(i, "ground/"), "%s leans on %s", name, i)
		}
	}
}

// Nobody but these opens the judges' house: what is shown to people at work is never computed there.
func TestWhoUsesTheJudges(t *testing.T) {
	may := []string{"cmd/geminate", "demo", "desk", "server", "sheet"} // the command line, the demo's history, the practice bay
	for name, imports := range rooms(t) {
		if strings.HasPrefix(name, "ground/") || slices.Contains(may, name) {
			continue
		}
		for _, i := range imports {
			assert.False(t, strings.HasPrefix(i, "ground/"), "%s leans on %s", name, i)
		}
	}
}
