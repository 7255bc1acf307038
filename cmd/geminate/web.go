package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"geminate/demo"
	"geminate/instrument"
	"geminate/mariadb"
	"geminate/server"
	"geminate/store"
	"geminate/web"
)

const defaultPort = "8470"

func env(name, otherwise string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return otherwise
}

func demoCommand() *cobra.Command {
	return &cobra.Command{Use: "demo", Short: "Serve the demo shop on loopback", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		if os.Getenv("GEMINATE_DSN") != "" {
			return errors.New("demo keeps its made-up shop in a database of its own; unset GEMINATE_DSN, or use `geminate serve`")
		}
		return run("127.0.0.1:"+env("GEMINATE_PORT", defaultPort), env("GEMINATE_DATA", ".geminate/demo"), true)
	}}
}

func serveCommand() *cobra.Command {
	var listen string
	cmd := &cobra.Command{Use: "serve", Short: "Serve a shop: on the MariaDB of GEMINATE_DSN, or on a private one", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		return run(listen, env("GEMINATE_DATA", ".geminate/shop"), false)
	}}
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:"+env("GEMINATE_PORT", defaultPort), "address to listen on")
	return cmd
}

// openStore opens the shared database of GEMINATE_DSN or starts the private one.
func openStore(ctx context.Context, dir string) (*store.Store, func() error, error) {
	stopDatabase := func() error { return nil }
	dsn := os.Getenv("GEMINATE_DSN")
	if dsn == "" {
		db, err := mariadb.Start(ctx, dir)
		if err != nil {
			return nil, nil, err
		}
		dsn, stopDatabase = db.DSN(mariadb.Database), db.Stop
	}
	st, err := store.Open(ctx, dsn)
	if err != nil {
		return nil, nil, errors.Join(err, stopDatabase())
	}
	return st, func() error { return errors.Join(st.Close(), stopDatabase()) }, nil
}

func run(listen, dir string, isDemo bool) (err error) {
	ctx, cancel := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	defer cancel()
	// The port first: a busy one is told before a database is started for nothing.
	l, err := net.Listen("tcp", listen)
	if err != nil {
		if errors.Is(err, syscall.EADDRINUSE) {
			return fmt.Errorf("%s is in use by another program. Stop that, or choose another port: GEMINATE_PORT=8471", listen)
		}
		return fmt.Errorf("cannot listen on %s: %w. Choose another port with GEMINATE_PORT", listen, err)
	}
	st, stop, err := openStore(ctx, dir)
	if err != nil {
		return errors.Join(err, l.Close())
	}
	defer func() { err = errors.Join(err, stop()) }()
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	cfg := server.Config{Store: st, Log: log, Secure: os.Getenv("GEMINATE_SECURE") == "1", Counter: strings.TrimRight(os.Getenv("GEMINATE_COUNTER"), "/")}
	if files, ok := web.Files(); ok {
		cfg.Front = files
	} else {
		log.Warn("built without the front end; `make build` builds it (needs Node)")
	}
	if isDemo {
		if err := demo.Load(ctx, st, time.Now()); err != nil {
			return errors.Join(err, l.Close())
		}
		cfg.Demo = demo.Accounts
		if cfg.Counter == "" { // a simulated supplier of its own, slow and now and then silent
			addr, err := instrument.Listen(ctx, "127.0.0.1:0", demo.Counter())
			if err != nil {
				return errors.Join(err, l.Close())
			}
			cfg.Counter = "http://" + addr.String()
		}
	}
	app := server.New(cfg)
	go prune(ctx, st, log)
	done := make(chan error, 1)
	go func() { done <- app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true}) }()
	fmt.Printf("Geminate is ready: http://%s\n", l.Addr())
	if isDemo {
		fmt.Println("Demo shop: made-up people, vehicles and parts. Sign in with one click. Stop with Ctrl-C.")
	}
	select {
	case err = <-done:
		return err
	case <-ctx.Done():
	}
	fmt.Println("Stopping: requests first, then the database.")
	err = app.ShutdownWithTimeout(8 * time.Second)
	server.WaitForImports()
	return err
}

func counterCommand() *cobra.Command {
	var listen string
	var delay time.Duration
	var fail float64
	cmd := &cobra.Command{Use: "counter", Short: "Serve a simulated parts counter (HTTP and JSON) for GEMINATE_COUNTER", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		if !(fail >= 0 && fail <= 1) || delay < 0 {
			return badInput{errors.New("--fail takes 0 to 1, --delay a time of zero or more")}
		}
		ctx, cancel := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
		defer cancel()
		addr, err := instrument.Listen(ctx, listen, &instrument.Counter{Delay: delay, FailRate: fail})
		if err != nil {
			return fmt.Errorf("cannot listen on %s: %w", listen, err)
		}
		fmt.Printf("Simulated parts counter: http://%s/v1/parts?number=… (every answer is made up)\n", addr)
		<-ctx.Done()
		return nil
	}}
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:8480", "address to listen on")
	cmd.Flags().DurationVar(&delay, "delay", 300*time.Millisecond, "how long every answer takes")
	cmd.Flags().Float64Var(&fail, "fail", 0.1, "share of questions that get no answer")
	return cmd
}

// prune clears expired sessions and counters away every ten minutes.
func prune(ctx context.Context, st *store.Store, log *slog.Logger) {
	for {
		if _, err := st.PruneWebState(ctx); err != nil && ctx.Err() == nil {
			log.Warn("clearing expired sessions", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(10 * time.Minute):
		}
	}
}

func accountCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "account", Short: "Accounts of the shop (while `serve` is not running, or with GEMINATE_DSN)"}
	var role, display string
	add := &cobra.Command{Use: "add NAME", Short: "Add an account; the password is read from standard input", Args: cobra.ExactArgs(1), RunE: func(_ *cobra.Command, args []string) (err error) {
		if role != store.RoleTechnician && role != store.RoleLead && role != store.RoleTrainee {
			return badInput{fmt.Errorf("--role %q: one of technician, lead, trainee", role)}
		}
		fmt.Fprint(os.Stderr, "Password: ")
		password, err := bufio.NewReader(os.Stdin).ReadString('\n')
		if err != nil && password == "" {
			return badInput{errors.New("no password was given on standard input")}
		}
		hash, err := server.HashPassword(strings.TrimRight(password, "\r\n"))
		if err != nil {
			return badInput{err}
		}
		ctx := context.Background()
		st, stop, err := openStore(ctx, env("GEMINATE_DATA", ".geminate/shop"))
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, stop()) }()
		name := strings.ToLower(strings.TrimSpace(args[0]))
		if display == "" {
			display = args[0]
		}
		err = st.AddUser(ctx, &store.User{ID: uuid.NewString(), Name: name, Display: display, Role: role, PasswordHash: hash, Units: "both", Theme: "day", CreatedAt: time.Now().UTC()})
		if errors.Is(err, store.ErrTaken) {
			return badInput{fmt.Errorf("there is an account %q already", name)}
		}
		return err
	}}
	add.Flags().StringVar(&role, "role", store.RoleTechnician, "technician, lead or trainee")
	add.Flags().StringVar(&display, "display", "", "name as shown")
	cmd.AddCommand(add)
	return cmd
}
