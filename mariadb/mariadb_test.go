package mariadb

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"syscall"
	"testing"
	"time"

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

	cmd, exited, _ := s.running()
	require.NoError(t, syscall.Kill(cmd.Process.Pid, syscall.SIGKILL))
	<-exited
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
	_, exited, _ := s.running()
	<-exited
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

// A server that is killed while it is watched is back on the same address with its rows.
func TestWatchedServerIsStartedAgain(t *testing.T) {
	dir := t.TempDir()
	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(context.Background())
	said := make(chan string, 20)
	over := make(chan struct{})
	go func() { s.Watch(ctx, func(what string, _ error) { said <- what }); close(over) }()
	db := open(t, s)
	_, err = db.Exec("CREATE TABLE kept (n INT)")
	require.NoError(t, err)
	for n := range 3 {
		_, err = db.Exec("INSERT INTO kept VALUES (?)", n)
		require.NoError(t, err)
		cmd, _, _ := s.running()
		require.NoError(t, syscall.Kill(cmd.Process.Pid, syscall.SIGKILL))
		for what := ""; what != "the database is back"; {
			select {
			case what = <-said:
			case <-time.After(30 * time.Second):
				t.Fatal("it did not come back")
			}
		}
		var rows int
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM kept").Scan(&rows))
		assert.Equal(t, n+1, rows)
	}
	dsn, ok := Attach(dir)
	assert.True(t, ok, "another process finds it")
	assert.Equal(t, s.DSN(Database), dsn)
	require.NoError(t, s.Stop())
	<-over
	cancel()
	_, ok = Attach(dir)
	assert.False(t, ok)
}

// A full disk is told at once, not after a minute of waiting. The small disk is a file system in memory, which
// takes the right to mount; where that is not given the same is asked of a directory that has room.
func TestFullDiskIsTold(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, Room(dir))
	if syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=8m") != nil {
		t.Log("may not mount: only the free room was asked for")
		return
	}
	defer func() { _ = syscall.Unmount(dir, 0) }()
	began := time.Now()
	_, err := Start(context.Background(), dir)
	require.ErrorIs(t, err, ErrFull)
	assert.ErrorContains(t, err, "GEMINATE_DATA")
	assert.Less(t, time.Since(began), 5*time.Second)
}

// Found: a database whose Geminate was killed while it started keeps the word to stop for later, and every further
// start gave up on it. Here it takes no word at all.
func TestALeftoverThatDoesNotStopIsEnded(t *testing.T) {
	dir := t.TempDir()
	left := exec.Command("bash", "-c", `trap "" TERM; while :; do sleep 0.1; done`, "mariadbd", "--datadir="+filepath.Join(dir, "db"))
	require.NoError(t, left.Start())
	gone := make(chan struct{})
	go func() { _ = left.Wait(); close(gone) }()
	time.Sleep(300 * time.Millisecond) // until it has set its trap
	began := time.Now()
	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Stop() })
	<-gone
	assert.Less(t, time.Since(began), 40*time.Second)
}
