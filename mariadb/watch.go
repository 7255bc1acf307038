package mariadb

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// Watch starts the server again whenever it ends without having been told to, on the same port, so that every
// connection finds it again. say is told what happened. It returns when ctx ends.
func (s *Server) Watch(ctx context.Context, say func(what string, err error)) {
	pause := restartPause
	for {
		_, exited, _ := s.running()
		began := time.Now()
		select {
		case <-ctx.Done():
			return
		case <-exited:
		}
		if _, _, stopping := s.running(); stopping || ctx.Err() != nil {
			return
		}
		if time.Since(began) > time.Minute {
			pause = restartPause
		}
		say("the database ended and is started again", Room(s.dir))
		select {
		case <-ctx.Done():
			return
		case <-time.After(pause):
		}
		pause = min(2*pause, longestPause)
		err := s.launch()
		if err == nil {
			err = s.secure(ctx)
		}
		if err != nil {
			say("starting the database again", err)
			continue
		}
		say("the database is back", nil)
	}
}

const restartPause, longestPause = 100 * time.Millisecond, 5 * time.Second

// ErrFull says that there is too little room for a database to work in.
var ErrFull = errors.New("the disk is full")

// leastRoomMB is what a server needs to start and to write its logs; making a new one takes more.
const leastRoomMB, freshRoomMB = 48, 160

// Room returns an ErrFull where a data directory's disk has too little room.
func Room(dir string) error {
	var fs syscall.Statfs_t
	if err := syscall.Statfs(dir, &fs); err != nil {
		return nil // not known is not full
	}
	need := uint64(leastRoomMB)
	if _, err := os.Stat(filepath.Join(dir, "db")); err != nil {
		need = freshRoomMB
	}
	if free := fs.Bavail * uint64(fs.Bsize) >> 20; free < need {
		return fmt.Errorf("%w: %d MB are left where %s lies, %d are needed. Make room, or choose another directory with GEMINATE_DATA",
			ErrFull, free, dir, need)
	}
	return nil
}

func portFile(dir string) string { return filepath.Join(dir, "port") }

// Attach gives the address of a database on the server that another process runs on this directory; ok is
// false where none runs.
func Attach(dir string) (dsn string, ok bool) {
	port, err := os.ReadFile(portFile(dir))
	if err != nil {
		return "", false
	}
	secret, err := os.ReadFile(filepath.Join(dir, "secret"))
	if err != nil {
		return "", false
	}
	n, err := strconv.Atoi(strings.TrimSpace(string(port)))
	if err != nil {
		return "", false
	}
	lock, err := os.OpenFile(filepath.Join(dir, "geminate.lock"), os.O_RDWR, 0o600)
	if err != nil {
		return "", false
	}
	defer func() { _ = lock.Close() }()
	if syscall.Flock(int(lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) == nil {
		return "", false // no one holds it: the port is a killed process's
	}
	s := Server{password: strings.TrimSpace(string(secret)), port: n}
	return s.DSN(Database), true
}
