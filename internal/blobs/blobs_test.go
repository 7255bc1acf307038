package blobs

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Each kind of store answers alike. A store that speaks S3 is tried where GEMINATE_TEST_S3 names one: scripts/s3 starts
// one.
func TestAStoreKeepsWhatItIsGiven(t *testing.T) {
	addresses := map[string]string{"folder": "file://" + filepath.Join(t.TempDir(), "deep", "photos")}
	if s3 := os.Getenv("GEMINATE_TEST_S3"); s3 != "" {
		addresses["s3"] = s3
	}
	for kind, address := range addresses {
		t.Run(kind, func(t *testing.T) {
			b, err := Open(t.Context(), address)
			require.NoError(t, err)
			_, err = b.Get(t.Context(), "shop/ab12")
			require.ErrorIs(t, err, ErrNotFound)
			require.NoError(t, b.Put(t.Context(), "shop/ab12", []byte("one")))
			require.NoError(t, b.Put(t.Context(), "shop/ab12", []byte("two")), "again under its name")
			require.NoError(t, b.Put(t.Context(), "other/ab12", nil))
			got, err := b.Get(t.Context(), "shop/ab12")
			require.NoError(t, err)
			assert.Equal(t, "two", string(got))
			got, err = b.Get(t.Context(), "other/ab12")
			require.NoError(t, err)
			assert.Empty(t, got, "another shop's is another")
			again, err := Open(t.Context(), address)
			require.NoError(t, err)
			require.NoError(t, again.Drop(t.Context(), "shop/ab12"))
			require.NoError(t, again.Drop(t.Context(), "shop/ab12"), "gone already")
			_, err = b.Get(t.Context(), "shop/ab12")
			require.ErrorIs(t, err, ErrNotFound)
			for _, name := range []string{"", "../up", "/root", "a//b", "a/../b", ".hidden", "a b", strings.Repeat("a/", 3)} {
				assert.Error(t, b.Put(t.Context(), name, nil), name)
				_, err := b.Get(t.Context(), name)
				assert.Error(t, err, name)
				assert.Error(t, b.Drop(t.Context(), name), name)
			}
		})
	}
}

// A folder has no half pieces: what was cut short stands under no name.
func TestAFolderHasNoHalfPieces(t *testing.T) {
	root := t.TempDir()
	b, err := Open(t.Context(), "file://"+root)
	require.NoError(t, err)
	require.NoError(t, b.Put(t.Context(), "x", []byte("whole")))
	left, err := filepath.Glob(filepath.Join(root, ".part-*"))
	require.NoError(t, err)
	assert.Empty(t, left)
	require.NoError(t, os.Mkdir(filepath.Join(root, "taken"), 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(root, "taken", "in"), nil, 0o600))
	require.Error(t, b.Put(t.Context(), "taken", []byte("no")), "a folder stands there")
	left, err = filepath.Glob(filepath.Join(root, ".part-*"))
	require.NoError(t, err)
	assert.Empty(t, left, "nothing is left behind")
}

func TestAnAddressThatNamesNoStoreIsToldSo(t *testing.T) {
	for address, says := range map[string]string{
		"photos": "is no address", "ftp://x/y": "is no address", "file://photos": "from the root", "s3://bucket": "where it answers", "s3:///p?endpoint=h:1": "by its bucket",
		"s3://bucket?endpoint=127.0.0.1:1&insecure=1": "AWS_ACCESS_KEY_ID",
	} {
		_, err := Open(t.Context(), address)
		assert.ErrorContains(t, err, says, address)
	}
}
