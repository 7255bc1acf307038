// Package testdb gives tests a real MariaDB: one private server for a test program, a fresh
// database for each test.
package testdb

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"sync/atomic"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"

	"geminate/mariadb"
)

var (
	server *mariadb.Server
	count  atomic.Int64
)

// Main runs a package's tests with a server behind them; call it from TestMain.
func Main(m *testing.M) {
	dir, err := os.MkdirTemp(memory(), "gmtest")
	if err == nil {
		server, err = mariadb.Start(context.Background(), dir)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "these tests need MariaDB:", err)
		os.Exit(1)
	}
	code := m.Run()
	if err := server.Stop(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		code = 1
	}
	_ = os.RemoveAll(dir)
	os.Exit(code)
}

// memory is a folder in memory where there is one with room: a test's commits need no disk. That a database
// survives being killed is tested elsewhere, on a disk.
func memory() string {
	const shm, need = "/dev/shm", 1 << 30
	var fs syscall.Statfs_t
	if syscall.Statfs(shm, &fs) != nil || fs.Bavail*uint64(fs.Bsize) < need {
		return ""
	}
	return shm
}

// DSN makes an empty database and returns its address.
func DSN(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("geminate_%d", count.Add(1))
	db, err := sql.Open("mysql", server.DSN(""))
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	_, err = db.Exec("CREATE DATABASE " + name + " CHARACTER SET utf8mb4 COLLATE " + mariadb.Collation)
	require.NoError(t, err)
	return server.DSN(name)
}
