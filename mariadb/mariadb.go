// Package mariadb runs a private MariaDB server: its own data directory, loopback only, an account
// with a random password. It never looks at or touches a server of the system's.
package mariadb

import (
	"bytes"
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Database is the name of the one database made.
const Database = "geminate"

// Collation is named in every CREATE DATABASE, so that sorting does not hang on a server's default.
const Collation = "utf8mb4_unicode_ci"

// Server is a running private server.
type Server struct {
	dir      string
	port     int
	password string
	lock     *os.File
	socket   string
	daemon   string

	mu       sync.Mutex // guards what a restart replaces
	cmd      *exec.Cmd
	exited   chan struct{}
	stopping bool
}

// ErrNotInstalled says which package is missing.
var ErrNotInstalled = errors.New(
	"MariaDB's server program is not installed. Install it with: apt-get install mariadb-server-core mariadb-client-core",
)

// Start starts the server of a data directory, making the directory on first use. One process may
// hold a directory at a time; a server left over from a killed process is stopped first.
func Start(ctx context.Context, dir string) (*Server, error) {
	daemon, install, err := programs()
	if err != nil {
		return nil, err
	}
	dir, err = filepath.Abs(dir)
	if err != nil {
		return nil, fmt.Errorf("data directory: %w", err)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("cannot make the data directory %s: %w. Choose another with GEMINATE_DATA", dir, err)
	}
	// One that was there before may have been open to all: the socket in it lets in whoever reaches it.
	if err := os.Chmod(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the data directory %s is somebody else's: %w. Choose another with GEMINATE_DATA", dir, err)
	}
	if err := Room(dir); err != nil {
		return nil, err
	}
	s := &Server{dir: dir, daemon: daemon}
	if err := s.takeLock(); err != nil {
		return nil, err
	}
	ok := false
	defer func() {
		if !ok {
			s.dropLock()
		}
	}()
	if err := s.stopLeftover(); err != nil {
		return nil, err
	}
	if err := s.prepare(ctx, install); err != nil {
		return nil, err
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	if err := s.launch(); err != nil {
		return nil, err
	}
	if err := errors.Join(s.secure(ctx), os.WriteFile(portFile(dir), []byte(strconv.Itoa(s.port)), 0o600)); err != nil {
		return nil, errors.Join(err, s.Stop())
	}
	ok = true
	return s, nil
}

func programs() (daemon, install string, err error) {
	path := os.Getenv("PATH") + ":/usr/sbin:/usr/local/sbin"
	find := func(name string) string {
		for _, d := range filepath.SplitList(path) {
			p := filepath.Join(d, name)
			if st, err := os.Stat(p); err == nil && !st.IsDir() && st.Mode()&0o111 != 0 {
				return p
			}
		}
		return ""
	}
	daemon, install = find("mariadbd"), find("mariadb-install-db")
	if daemon == "" || install == "" || find("my_print_defaults") == "" {
		return "", "", ErrNotInstalled
	}
	return daemon, install, nil
}

func (s *Server) takeLock() error {
	f, err := os.OpenFile(filepath.Join(s.dir, "geminate.lock"), os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return fmt.Errorf("cannot write in the data directory %s: %w. Choose another with GEMINATE_DATA", s.dir, err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		_ = f.Close()
		return fmt.Errorf("another Geminate is using %s. Stop it, or choose another directory with GEMINATE_DATA", s.dir)
	}
	s.lock = f
	return nil
}

func (s *Server) dropLock() {
	if s.lock != nil {
		_ = s.lock.Close()
		s.lock = nil
	}
}

func (s *Server) data() string { return filepath.Join(s.dir, "db") }
func (s *Server) temp() string { return filepath.Join(s.dir, "tmp") }

// env gives a server a temporary folder of its own: at its start MariaDB deletes temporary tables
// it finds, and in a shared one they may be another server's.
func (s *Server) env() []string   { return append(os.Environ(), "TMPDIR="+s.temp()) }
func (s *Server) pidFile() string { return filepath.Join(s.dir, "mariadb.pid") }

// Patience with a leftover, told to stop and then made to. One that was still starting when it was told keeps that for
// later, and never gets there: it is made to. InnoDB comes back whole from either. Assumption.
const toldFor, madeFor = 8 * time.Second, 5 * time.Second

// stopLeftover ends servers whose Geminate was killed. The lock is ours, so whoever runs on this directory has no owner
// left: found by the directory they were started with, since one that is starting has written no process number yet.
func (s *Server) stopLeftover() error {
	for _, pid := range s.leftovers() {
		if endProcess(pid, syscall.SIGTERM, toldFor) {
			continue
		}
		if !s.isOurs(pid) { // gone, and the number is somebody else's by now
			continue
		}
		fmt.Fprintf(os.Stderr,
			"geminate: a database left over from an earlier run (process %d) did not stop when told; it was ended\n", pid)
		if !endProcess(pid, syscall.SIGKILL, madeFor) {
			return fmt.Errorf("a database left over from an earlier run (process %d) does not end. End it, then start again", pid)
		}
	}
	return nil
}

// endProcess sends a signal and waits so long; true once the process is gone.
func endProcess(pid int, with syscall.Signal, patience time.Duration) bool {
	_ = syscall.Kill(pid, with)
	for until := time.Now().Add(patience); time.Now().Before(until); time.Sleep(50 * time.Millisecond) {
		if syscall.Kill(pid, 0) != nil || isZombie(pid) {
			return true
		}
	}
	return false
}

// isZombie says whether a process has ended and only waits to be counted by its parent.
func isZombie(pid int) bool {
	stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return true
	}
	after := stat[bytes.LastIndexByte(stat, ')')+1:]
	return bytes.HasPrefix(bytes.TrimSpace(after), []byte("Z"))
}

// isOurs says whether a process is a database on this directory.
func (s *Server) isOurs(pid int) bool {
	cmdline, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	return err == nil && bytes.Contains(cmdline, []byte("--datadir="+s.data()+"\x00"))
}

// leftovers are the processes that run on this directory.
func (s *Server) leftovers() (out []int) {
	all, _ := filepath.Glob("/proc/[0-9]*")
	for _, dir := range all {
		if pid, err := strconv.Atoi(filepath.Base(dir)); err == nil && pid > 1 && s.isOurs(pid) {
			out = append(out, pid)
		}
	}
	return out
}

func (s *Server) prepare(ctx context.Context, install string) error {
	// A socket path may be 107 bytes long at most; deep directories get one in the temporary folder.
	s.socket = filepath.Join(s.dir, "db.sock")
	if len(s.socket) > 100 {
		d, err := os.MkdirTemp("", "gm")
		if err != nil {
			return fmt.Errorf("temporary folder: %w", err)
		}
		s.socket = filepath.Join(d, "db.sock")
	}
	if err := os.MkdirAll(s.temp(), 0o700); err != nil {
		return fmt.Errorf("temporary folder: %w", err)
	}
	secret := filepath.Join(s.dir, "secret")
	raw, err := os.ReadFile(secret)
	if errors.Is(err, os.ErrNotExist) {
		raw = []byte(hex.EncodeToString(randomBytes(24)))
		err = os.WriteFile(secret, raw, 0o600)
	}
	if err != nil {
		return fmt.Errorf("the database's password file: %w", err)
	}
	s.password = strings.TrimSpace(string(raw))
	if _, err := os.Stat(filepath.Join(s.data(), "mysql")); err == nil {
		return nil
	}
	// Made beside and moved into place: a half-made directory of a killed first start is not taken
	// for a whole one.
	fresh := s.data() + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return fmt.Errorf("clearing %s: %w", fresh, err)
	}
	args := []string{
		"--no-defaults",
		"--datadir=" + fresh,
		"--auth-root-authentication-method=normal",
		"--skip-test-db",
		"--skip-name-resolve",
		"--force",
		"--innodb-log-file-size=8M",
	} // force: a machine whose own name nothing resolves is one too
	if os.Geteuid() == 0 {
		args = append(args, "--user=root")
	}
	cmd := exec.CommandContext(ctx, install, args...)
	cmd.Env = s.env()
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("making the database in %s: %w\n%s", fresh, err, bytes.TrimSpace(out))
	}
	return os.Rename(fresh, s.data())
}

func randomBytes(n int) []byte {
	b := make([]byte, n)
	_, _ = rand.Read(b) // never fails: crypto/rand ends the program instead
	return b
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("no free port on loopback: %w", err)
	}
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port, nil
}

func (s *Server) logFile() string { return filepath.Join(s.dir, "mariadb.log") }

func (s *Server) launch() error {
	port := s.port
	args := []string{
		"--no-defaults",
		"--datadir=" + s.data(),
		"--bind-address=127.0.0.1",
		"--port=" + strconv.Itoa(port),
		"--socket=" + s.socket,
		"--pid-file=" + s.pidFile(),
		"--skip-name-resolve",
		"--character-set-server=utf8mb4",
		"--collation-server=" + Collation,
		"--skip-log-bin",
		"--performance-schema=0",
		"--innodb-buffer-pool-size=64M",
		"--max-connections=400",
		"--table-open-cache=4000",
	} // of a chain: each shop has connections and tables of its own
	if os.Geteuid() == 0 {
		args = append(args, "--user=root")
	}
	log, err := os.OpenFile(s.logFile(), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		return fmt.Errorf("the database's log: %w", err)
	}
	defer func() { _ = log.Close() }()
	cmd, exited := exec.Command(s.daemon, args...), make(chan struct{})
	cmd.Stdout, cmd.Stderr = log, log
	cmd.Env = s.env()
	// Its own group, so that Ctrl-C reaches us first and we stop it in order; and it is told to stop
	// should we be killed.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGTERM}
	started := make(chan error, 1)
	go func() {
		// The death signal hangs on the thread that started the child: keep it alive.
		runtime.LockOSThread()
		err := cmd.Start()
		started <- err
		if err == nil {
			_ = cmd.Wait()
		}
		close(exited)
	}()
	if err := <-started; err != nil {
		return fmt.Errorf("starting %s: %w", s.daemon, err)
	}
	s.mu.Lock()
	s.cmd, s.exited = cmd, exited
	s.mu.Unlock()
	return nil
}

// running gives the process as it is now.
func (s *Server) running() (*exec.Cmd, chan struct{}, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.cmd, s.exited, s.stopping
}

// accessDenied is the server's number for a wrong password.
const accessDenied = 1045

// secure waits for the server and leaves just one account that may come in over loopback.
func (s *Server) secure(ctx context.Context) error {
	// Root has this directory's own secret; on a directory from before it had, or one that is new, nothing yet.
	db, err := sql.Open("mysql", "root:"+s.password+"@unix("+s.socket+")/")
	if err != nil {
		return err
	}
	bare, err := sql.Open("mysql", "root@unix("+s.socket+")/")
	if err != nil {
		return err
	}
	defer func() { _ = errors.Join(db.Close(), bare.Close()) }()
	deadline := time.Now().Add(60 * time.Second) // a killed server may have much to recover
	_, exited, _ := s.running()
	for {
		if err = db.PingContext(ctx); err == nil {
			break
		}
		if denied := new(mysql.MySQLError); errors.As(err, &denied) && denied.Number == accessDenied {
			if err = bare.PingContext(ctx); err == nil {
				db = bare
				break
			}
		}
		select {
		case <-exited:
			if err := Room(s.dir); err != nil {
				return err
			}
			return fmt.Errorf("the database stopped while starting. Its log is %s:\n%s", s.logFile(), tail(s.logFile()))
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(40 * time.Millisecond):
		}
		if time.Now().After(deadline) {
			return fmt.Errorf("the database did not answer within a minute: %w. Its log is %s", err, s.logFile())
		}
	}
	for _, q := range []string{
		"DROP USER IF EXISTS 'root'@'127.0.0.1', 'root'@'::1'",
		"CREATE DATABASE IF NOT EXISTS " + Database + " CHARACTER SET utf8mb4 COLLATE " + Collation,
		"CREATE USER IF NOT EXISTS 'geminate'@'127.0.0.1'",
		"ALTER USER 'geminate'@'127.0.0.1' IDENTIFIED BY '" + s.password + "'",
		"GRANT ALL PRIVILEGES ON `geminate%`.* TO 'geminate'@'127.0.0.1'",
		"ALTER USER 'root'@'localhost' IDENTIFIED BY '" + s.password + "'",
	} {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("setting the database up: %w", err)
		}
	}
	return nil
}

func tail(path string) string {
	raw, _ := os.ReadFile(path)
	lines := strings.Split(strings.TrimSpace(string(raw)), "\n")
	return strings.Join(lines[max(0, len(lines)-8):], "\n")
}

// DSN is the address of a database on this server, in the Go driver's form.
func (s *Server) DSN(database string) string {
	return fmt.Sprintf("geminate:%s@tcp(127.0.0.1:%d)/%s", s.password, s.port, database)
}

// Stop ends the server cleanly and waits for it.
func (s *Server) Stop() error {
	defer s.dropLock()
	s.mu.Lock()
	s.stopping = true
	cmd, exited := s.cmd, s.exited
	s.mu.Unlock()
	_ = os.Remove(portFile(s.dir))
	if cmd == nil || cmd.Process == nil {
		return nil
	}
	_ = cmd.Process.Signal(syscall.SIGTERM)
	select {
	case <-exited:
		return nil
	case <-time.After(30 * time.Second):
		return fmt.Errorf("the database (process %d) is still writing after 30 s; it was left to finish", cmd.Process.Pid)
	}
}
