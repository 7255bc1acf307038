package main

import (
	"bufio"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"geminate/brake/job"
	"geminate/demo"
	"geminate/instrument"
	"geminate/internal/blobs"
	guard "geminate/internal/listen"
	"geminate/mariadb"
	"geminate/server"
	"geminate/store"
	"geminate/trust"
	"geminate/web"
	"geminate/words"
)

const defaultPort = "8470"

func env(name, otherwise string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return otherwise
}

func demoCommand() *cobra.Command {
	years, pace, mqtt := demo.HistoryJobs, 1.0, ""
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve the demo shop on loopback",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if os.Getenv("GEMINATE_DSN") != "" {
				return errors.New("demo keeps its made-up shop in a database of its own; unset GEMINATE_DSN, or use `geminate serve`")
			}
			return run(
				&serving{
					listen: "127.0.0.1:" + env("GEMINATE_PORT", defaultPort),
					dir:    env("GEMINATE_DATA", ".geminate/demo"),
					demo:   true,
					years:  years,
					pace:   pace,
					mqtt:   mqtt,
				},
			)
		},
	}
	cmd.Flags().StringVar(&mqtt, "mqtt", "", "listen to instruments by MQTT at this loopback address")
	cmd.Flags().IntVar(&years, "years", years, "released jobs of the two years before, in a new shop")
	cmd.Flags().
		Float64Var(&pace, "pace", pace, "how many times as fast the shop's clock runs: a job that takes an hour can be tried in minutes")
	return cmd
}

// serving is how a shop is served.
type serving struct {
	listen, dir string
	demo        bool
	years       int // jobs of the demo's past
	pace        float64
	// behindProxy: a proxy speaks HTTPS to the world; plain HTTP is spoken to it alone.
	behindProxy bool
	// addresses are where other devices open it; fingerprint is of its own authority.
	addresses   []string
	fingerprint string
	// mqtt is where instruments are listened to, "" where not.
	mqtt string
	// certFile and keyFile are the shop's own certificate, in place of one of its own authority.
	certFile, keyFile string
}

func serveCommand() *cobra.Command {
	s := &serving{}
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve a shop: on the MariaDB of GEMINATE_DSN, or on a private one",
		Long: `Serve a shop: on the MariaDB of GEMINATE_DSN, or on a private one.

On loopback it speaks plain HTTP. On any other address it speaks HTTPS by itself, with a certificate of the shop's own
authority (made once, kept in the data directory) or with --cert and --key; plain HTTP there gets one page that says how
to trust this shop on a device. With --behind-proxy a proxy speaks HTTPS in its place.`,
		Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			s.dir = env("GEMINATE_DATA", ".geminate/shop")
			if (s.certFile == "") != (s.keyFile == "") {
				return badInput{errors.New("--cert and --key go together")}
			}
			return run(s)
		},
	}
	cmd.Flags().
		StringVar(&s.listen, "listen", "127.0.0.1:"+env("GEMINATE_PORT", defaultPort), "address to listen on, host:port; :8470 is every address of this machine")
	cmd.Flags().BoolVar(&s.behindProxy, "behind-proxy", false, "a proxy speaks HTTPS; set GEMINATE_PROXIES and GEMINATE_SECURE=1 as well")
	cmd.Flags().
		StringVar(&s.mqtt, "mqtt", "", "listen to instruments by MQTT at this address, host:port (:8883); off without it. On any address but loopback it speaks TLS as the shop does")
	cmd.Flags().StringVar(&s.certFile, "cert", "", "certificate file (PEM, with its chain)")
	cmd.Flags().StringVar(&s.keyFile, "key", "", "the certificate's key file (PEM)")
	return cmd
}

// loopback says whether a listener can be reached from this machine alone.
func loopback(l net.Listener) bool {
	a, ok := l.Addr().(*net.TCPAddr)
	return ok && a.IP.IsLoopback()
}

// secured puts HTTPS in front of a listener that others can reach. It gives the lines to print, nil where plain HTTP
// is spoken.
func (s *serving) secured(l net.Listener) (net.Listener, []string, error) {
	if loopback(l) && s.certFile == "" || s.behindProxy || s.demo {
		return l, nil, nil
	}
	_, port, err := net.SplitHostPort(l.Addr().String())
	if err != nil {
		return nil, nil, err
	}
	authority, err := trust.Open(filepath.Join(s.dir, "trust"))
	if err != nil {
		return nil, nil, err
	}
	say := func(key string) string { return words.T(key, nil) }
	if s.certFile != "" {
		pair, err := tls.LoadX509KeyPair(s.certFile, s.keyFile)
		if err != nil {
			return nil, nil, fmt.Errorf("--cert and --key: %w", err)
		}
		toHTTPS := http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			http.Error(w, say("trust.https_only"), http.StatusUpgradeRequired)
		})
		return trust.Listen(l,
			&tls.Config{MinVersion: tls.VersionTLS12, NextProtos: []string{"http/1.1"}, Certificates: []tls.Certificate{pair}},
			toHTTPS), []string{}, nil
	}
	lines := []string{}
	s.fingerprint = authority.Fingerprint()
	for _, at := range authority.Addresses(port) {
		lines = append(lines, "  "+at)
	}
	if len(lines) > 0 {
		plain := strings.Replace(strings.TrimSpace(lines[0]), "https://", "http://", 1)
		if code, err := trust.Text(plain + "/"); err == nil {
			s.addresses = append(s.addresses, plain+"/")
			lines = append(lines, "A tablet is told to trust this shop once: open "+plain+" on it, or point its camera here.",
				code, "Fingerprint: "+authority.Fingerprint())
		}
	}
	return trust.Listen(l, authority.Config(), authority.Page(port, say)), lines, nil
}

// instruments listens for them; others than this machine's speak TLS by the shop's own authority or its certificate.
func (s *serving) instruments(log *slog.Logger) (net.Listener, error) {
	l, err := net.Listen("tcp", s.mqtt)
	if err != nil {
		return nil, fmt.Errorf("--mqtt %s: %w", s.mqtt, err)
	}
	near := loopback(l)
	l = guard.Guard(l,
		guard.Bounds{Most: instrument.ConnectionsMost, Each: instrument.ConnectionsMost / 2, FirstBy: instrument.ConnectWithin},
		turnedAway(log, "instruments"))
	if near {
		return l, nil
	}
	if s.certFile != "" {
		pair, err := tls.LoadX509KeyPair(s.certFile, s.keyFile)
		if err != nil {
			return nil, errors.Join(fmt.Errorf("--cert and --key: %w", err), l.Close())
		}
		return tls.NewListener(l, &tls.Config{MinVersion: tls.VersionTLS12, Certificates: []tls.Certificate{pair}}), nil
	}
	authority, err := trust.Open(filepath.Join(s.dir, "trust"))
	if err != nil {
		return nil, errors.Join(err, l.Close())
	}
	return tls.NewListener(l, authority.Config()), nil
}

// handlesKept are those the server keeps for its database, its files and its own, out of all it may have open;
// connectionsMost are its connections at the most, and eachMost those of one address: a shop's tablets behind one
// router are far fewer.
const (
	handlesKept     = 200
	connectionsMost = 4000
	eachMost        = 600
)

func boundsOf(handles int, proxies []string) guard.Bounds {
	b := guard.Bounds{Most: connectionsMost, Each: eachMost, Trusted: func(ip string) bool { return slices.Contains(proxies, ip) }}
	if handles > 0 {
		b.Most = max(64, min(connectionsMost, handles-handlesKept))
		b.Each = min(eachMost, b.Most/2)
	}
	return b
}

// turnedAway tells of connections that are, and of accepts that fail.
func turnedAway(log *slog.Logger, where string) func(string, int64, error) {
	return func(what string, n int64, err error) {
		log.Warn("connections", "where", where, "what", what, "turned_away", n, "error", err)
	}
}

// opened is a store with what keeps its database going.
type opened struct {
	*store.Store
	stop func() error
	room func() error // nil where the database is not ours
}

// openStore opens the shared database of GEMINATE_DSN or starts the private one and keeps it going.
func openStore(ctx context.Context, dir string, log *slog.Logger) (*opened, error) {
	dsn, stop := os.Getenv("GEMINATE_DSN"), func() error { return nil }
	var room func() error
	if dsn == "" {
		db, err := mariadb.Start(ctx, dir)
		if err != nil {
			return nil, err
		}
		dsn = db.DSN(mariadb.Database)
		watching, cancel := context.WithCancel(ctx)
		go db.Watch(watching, func(what string, err error) { log.Error(what, "error", err) })
		stop = func() error { cancel(); return db.Stop() }
		room = func() error { return mariadb.Room(dir) }
	}
	st, err := store.Open(ctx, dsn)
	if err != nil {
		return nil, errors.Join(err, stop())
	}
	if err := outside(ctx, st); err != nil {
		return nil, errors.Join(err, st.Close(), stop())
	}
	return &opened{st, func() error { return errors.Join(st.Close(), stop()) }, room}, nil
}

// outside names the store to which photos are brought, where GEMINATE_PHOTOS names one.
func outside(ctx context.Context, st *store.Store) error {
	address := os.Getenv("GEMINATE_PHOTOS")
	if address == "" {
		return nil
	}
	bucket, err := blobs.Open(ctx, address)
	if err != nil {
		return badInput{fmt.Errorf("GEMINATE_PHOTOS: %w", err)}
	}
	st.KeepPictures(bucket)
	return nil
}

func list(name string) []string {
	return strings.FieldsFunc(os.Getenv(name), func(r rune) bool { return r == ',' || r == ' ' })
}

func run(how *serving) (err error) {
	listen, dir, isDemo := how.listen, how.dir, how.demo
	ctx, cancel := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	defer cancel()
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: logLevel(isDemo)}))
	// The port first: a busy one is told before a database is started for nothing.
	l, err := net.Listen("tcp", listen)
	if err != nil {
		if errors.Is(err, syscall.EADDRINUSE) {
			return fmt.Errorf("%s is in use by another program. Stop that, or choose another port: GEMINATE_PORT=8471", listen)
		}
		return fmt.Errorf("cannot listen on %s: %w. Choose another port with GEMINATE_PORT", listen, err)
	}
	at := l.Addr()
	bounded := boundsOf(guard.Handles(), list("GEMINATE_PROXIES"))
	log.Info("handles", "may_be_open", guard.Handles(), "connections", bounded.Most)
	l, lines, err := how.secured(guard.Guard(l, bounded, turnedAway(log, "page")))
	if err != nil {
		return err
	}
	relay := guard.NewRelay(l)
	l = relay.Next()
	before := startOn(l)
	st, err := openStore(ctx, dir, log)
	if err != nil {
		return errors.Join(err, l.Close())
	}
	before.waits("shop")
	defer func() { err = errors.Join(err, st.stop()) }()
	chain := st.Shops()
	defer chain.Close()
	cfg := server.Config{
		Store:       st.Store,
		Chain:       chain,
		Log:         log,
		Secure:      lines != nil || os.Getenv("GEMINATE_SECURE") == "1",
		Counter:     strings.TrimRight(os.Getenv("GEMINATE_COUNTER"), "/"),
		Hosts:       append(list("GEMINATE_HOSTS"), ownNames()...),
		Proxies:     list("GEMINATE_PROXIES"),
		Disk:        st.room,
		Addresses:   append(how.addresses, list("GEMINATE_ADDRESS")...),
		Fingerprint: how.fingerprint,
	}
	if files, ok := web.Files(); ok {
		cfg.Front = files
	} else {
		log.Warn("built without the front end; `make build` builds it (needs Node)")
	}
	if isDemo {
		if err := demo.LoadWith(ctx, st.Store, time.Now(), demo.CatalogueSize, how.years); err != nil {
			return errors.Join(err, l.Close())
		}
		cfg.Demo, cfg.Pace = demo.Accounts, how.pace
		if cfg.Counter == "" { // a simulated supplier of its own, slow and now and then silent
			addr, err := instrument.Listen(ctx, "127.0.0.1:0", demo.Counter())
			if err != nil {
				return errors.Join(err, l.Close())
			}
			cfg.Counter = "http://" + addr.String()
		}
	}
	if how.mqtt != "" {
		if cfg.Instruments, err = how.instruments(log); err != nil {
			return errors.Join(err, l.Close())
		}
	}
	life, end := context.WithCancel(context.Background())
	defer end()
	go func() { // what jobs from before there were facts have left behind
		err := chain.Each(ctx, func(_ store.Code, st *store.Store) error { return st.FillFacts(ctx) })
		if err != nil && ctx.Err() == nil {
			log.Warn("facts of old jobs", "error", err)
		}
	}()
	app := server.New(life, cfg)
	go prune(ctx, chain, log)
	done := make(chan error, 1)
	l = relay.Next()
	before.end()
	go func() { done <- app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true}) }()
	scheme := "http"
	if lines != nil {
		scheme = "https"
	}
	fmt.Printf("Geminate is ready: %s://%s\n", scheme, at)
	for _, line := range lines {
		fmt.Println(line)
	}
	if isDemo {
		fmt.Println("Demo shop: made-up people, vehicles and parts. Sign in with one click. Stop with Ctrl-C.")
	}
	select {
	case err = <-done:
		return err
	case <-ctx.Done():
	}
	fmt.Println("Stopping: requests first, then the database.")
	end() // streams and computations end, so that the requests can
	err = app.ShutdownWithTimeout(8 * time.Second)
	server.WaitForImports()
	return err
}

// logLevel: a demo's terminal is for people; a shop's log has a line for every request.
func logLevel(isDemo bool) slog.Level {
	if isDemo && os.Getenv("GEMINATE_LOG") == "" {
		return slog.LevelWarn
	}
	return slog.LevelInfo
}

// ownNames are the names this machine is reached by.
func ownNames() []string {
	name, err := os.Hostname()
	if err != nil || name == "" {
		return nil
	}
	return []string{name, name + ".local"}
}

func counterCommand() *cobra.Command {
	var listen string
	var delay time.Duration
	var fail float64
	cmd := &cobra.Command{
		Use:   "counter",
		Short: "Serve a simulated parts counter (HTTP and JSON) for GEMINATE_COUNTER",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
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
		},
	}
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:8480", "address to listen on")
	cmd.Flags().DurationVar(&delay, "delay", 300*time.Millisecond, "how long every answer takes")
	cmd.Flags().Float64Var(&fail, "fail", 0.1, "share of questions that get no answer")
	return cmd
}

// prune clears expired sessions and counters away every ten minutes.
func prune(ctx context.Context, chain *store.Chain, log *slog.Logger) {
	for {
		err := chain.Each(ctx, func(_ store.Code, st *store.Store) error {
			_, err := st.PruneWebState(ctx)
			return errors.Join(err, st.PrunePresence(ctx))
		})
		if err != nil && ctx.Err() == nil {
			log.Warn("clearing expired sessions and old screens", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(10 * time.Minute):
		}
	}
}

func accountCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "account", Short: "Accounts of the shop"}
	var role, display, code string
	add := &cobra.Command{
		Use:   "add NAME",
		Short: "Add an account; the password is read from standard input",
		Args:  cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) (err error) {
			if !slices.Contains(job.Roles, job.Role(role)) && job.Role(role) != job.Owner {
				return badInput{fmt.Errorf("--role %q: one of technician, lead, trainee; owner sees the figures of a chain's shops", role)}
			}
			if job.Role(role) == job.Owner && code != "" {
				return badInput{errors.New("a chain's owner has an account of the first shop: leave --shop out")}
			}
			fmt.Fprint(os.Stderr, "Password: ")
			password, err := bufio.NewReader(os.Stdin).ReadString('\n')
			if err != nil && password == "" {
				return badInput{errors.New("no password was given on standard input")}
			}
			name := strings.ToLower(strings.TrimSpace(args[0]))
			if name == "" || len(name) > 80 {
				return badInput{errors.New("an account needs a name of up to 80 characters")}
			}
			hash, err := server.HashPassword(strings.TrimRight(password, "\r\n"), name)
			if err != nil {
				return badInput{err}
			}
			ctx := context.Background()
			st, err := openShopOf(ctx, env("GEMINATE_DATA", ".geminate/shop"), code)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, st.stop()) }()
			if display == "" {
				display = args[0]
			}
			err = st.AddUser(
				ctx,
				&store.User{
					ID:           uuid.NewString(),
					Name:         name,
					Display:      display,
					Role:         job.Role(role),
					PasswordHash: hash,
					Units:        "both",
					Theme:        "day",
					CreatedAt:    time.Now().UTC(),
				},
			)
			if errors.Is(err, store.ErrTaken) {
				return badInput{fmt.Errorf("there is an account %q already", name)}
			}
			return err
		},
	}
	add.Flags().StringVar(&role, "role", string(job.Technician), "technician, lead or trainee")
	shopFlag(add, &code)
	add.Flags().StringVar(&display, "display", "", "name as shown")
	cmd.AddCommand(add)
	return cmd
}
