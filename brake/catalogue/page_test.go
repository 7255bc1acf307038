package catalogue_test

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/catalogue"
)

func TestThePageListsEveryColumn(t *testing.T) {
	page, err := os.ReadFile("../../docs/formats.md")
	require.NoError(t, err)
	assert.Contains(t, string(page), catalogue.Page(), "the table of columns in docs/formats.md")
}
