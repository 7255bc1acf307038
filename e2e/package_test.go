package e2e

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The Debian package: built twice it is the same to the byte; it is installed into a clean root, its program runs
// there, and taken out again it leaves nothing of its own behind.
func TestThePackageInstallsAndGoes(t *testing.T) {
	t.Parallel()
	if os.Getenv("GEMINATE_PACKAGE") == "" { // the program is built twice more for it: two minutes
		t.Skip("make package-test runs it")
	}
	build := func() (file string, raw []byte) {
		cmd := exec.Command("../scripts/package", "amd64", t.TempDir())
		cmd.Stderr = os.Stderr
		out, err := cmd.Output()
		require.NoError(t, err)
		file = strings.TrimSpace(string(out))
		raw, err = os.ReadFile(file)
		require.NoError(t, err)
		return file, raw
	}
	file, once := build()
	_, twice := build()
	assert.Equal(t, len(once), len(twice))
	assert.Equal(t, once, twice, "reproducible")

	root := t.TempDir()
	for _, dir := range []string{"info", "updates", "triggers"} {
		require.NoError(t, os.MkdirAll(filepath.Join(root, "var/lib/dpkg", dir), 0o755))
	}
	for _, f := range []string{"status", "available"} {
		require.NoError(t, os.WriteFile(filepath.Join(root, "var/lib/dpkg", f), nil, 0o644))
	}
	dpkg := func(args ...string) string {
		t.Helper()
		// Into another root its scripts run from here; they touch nothing of this machine then. What it depends on is
		// not there.
		cmd := exec.Command(
			"dpkg",
			append([]string{"--root=" + root, "--force-not-root", "--force-depends", "--force-script-chrootless", "--force-bad-path"},
				args...)...)
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
		return string(out)
	}
	dpkg("-i", file)
	assert.Contains(t, dpkg("-s", "geminate"), "Status: install ok installed")
	out, err := exec.Command(filepath.Join(root, "usr/bin/geminate"), "--help").CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "serve")
	unit, err := os.ReadFile(filepath.Join(root, "usr/lib/systemd/system/geminate.service"))
	require.NoError(t, err)
	assert.Contains(t, string(unit), "ExecStart=/usr/bin/geminate serve")
	dpkg("-i", file) // over itself, as an upgrade
	dpkg("-r", "geminate")
	for _, gone := range []string{"usr/bin/geminate", "usr/lib/systemd/system/geminate.service", "usr/share/doc/geminate/operating.md"} {
		assert.NoFileExists(t, filepath.Join(root, gone))
	}
}
