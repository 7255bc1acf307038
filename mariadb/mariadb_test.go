package mariadb

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func open(t *testing.T, s *Server) *sql.DB {
	t.Helper()
	db, err := sql.Open("mysql", s.DSN(Database))
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	return db
}

func TestKilledServerComesBackWithItsRows(t *testing.T) {
	dir := t.TempDir()
	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	db := open(t, s)
	_, err = db.Exec("CREATE TABLE kept (n INT)")
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO kept VALUES (41)")
	require.NoError(t, err)

	_, err = Start(context.Background(), dir)
	assert.ErrorContains(t, err, "another Geminate", "one directory, one owner")

	require.NoError(t, syscall.Kill(s.cmd.Process.Pid, syscall.SIGKILL))
	<-s.exited
	s.dropLock()
	again, err := Start(context.Background(), dir)
	require.NoError(t, err)
	defer func() { assert.NoError(t, again.Stop()) }()
	var n int
	require.NoError(t, open(t, again).QueryRow("SELECT n FROM kept").Scan(&n))
	assert.Equal(t, 41, n)
}

// Servers started at the same moment must not delete each other's temporary tables.
func TestManyStartAtOnce(t *testing.T) {
	var wg sync.WaitGroup
	for i := 0; i < 4; i++ {
		dir := t.TempDir()
		wg.Add(1)
		go func() {
			defer wg.Done()
			s, err := Start(context.Background(), dir)
			if assert.NoError(t, err) {
				assert.Contains(t, s.cmd.Env, "TMPDIR="+filepath.Join(s.dir, "tmp"))
				assert.NoError(t, s.Stop())
			}
		}()
	}
	wg.Wait()
}

func TestLeftoverServerIsStoppedFirst(t *testing.T) {
	dir := t.TempDir()
	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	s.dropLock() // as the kernel does when its owner is killed
	again, err := Start(context.Background(), dir)
	require.NoError(t, err)
	<-s.exited
	assert.NoError(t, again.Stop())
}

func TestOnlyOneAccountMayComeInOverLoopback(t *testing.T) {
	s, err := Start(context.Background(), t.TempDir())
	require.NoError(t, err)
	defer func() { assert.NoError(t, s.Stop()) }()
	db, err := sql.Open("mysql", fmt.Sprintf("root@tcp(127.0.0.1:%d)/", s.port))
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	assert.Error(t, db.Ping(), "root must not get in over the network")
	st, err := os.Stat(filepath.Join(s.dir, "secret"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), st.Mode().Perm())
}

func TestNoPlaceToWriteIsSaidClearly(t *testing.T) {
	file := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	_, err := Start(context.Background(), filepath.Join(file, "data"))
	assert.ErrorContains(t, err, "GEMINATE_DATA")
	t.Setenv("PATH", t.TempDir())
	if _, err := os.Stat("/usr/sbin/mariadbd"); err == nil {
		_, err = Start(context.Background(), t.TempDir())
		assert.ErrorContains(t, err, "apt-get install mariadb-server-core")
	}
}
