package server

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/brake/match"
)

// Every bound a field of the page names is one of the core's, and none has figures of its own.
func TestFieldsOfThePageTakeTheirBoundsFromTheCore(t *testing.T) {
	named := regexp.MustCompile(`[^:]bound="([a-z_.]+)"|'(pressed\.[a-z_]+)'|\.figure\('([a-z_.]+)'\)`)
	own := regexp.MustCompile(`:(?:min|max)="-?[\d.]+"`)
	seen := 0
	err := filepath.WalkDir("../web/src", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || filepath.Base(path) == "Gallery.vue" || filepath.Ext(path) != ".vue" && filepath.Ext(path) != ".ts" {
			return err
		}
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, m := range named.FindAllStringSubmatch(string(text), -1) {
			seen++
			_, field := job.FieldBounds()[m[1]+m[2]]
			_, unit := match.UnitFigures[m[3]]
			assert.True(t, field || unit, "%s: no bound %v in the core", path, m[0])
		}
		assert.Empty(t, own.FindAllString(string(text), -1), path)
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, seen, 30, "the pattern still finds them")
}
