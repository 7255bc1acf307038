// Package store keeps Geminate's data in MariaDB through GORM. It stores and finds; it computes
// nothing. All times are UTC.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"math/rand/v2"
	"slices"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
	gormmysql "gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"geminate/internal/blobs"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the database.
type Store struct {
	db  *gorm.DB
	sql *sql.DB
	at  address
	// nodes are those it may be reached at, and which of them is asked.
	nodes *nodes
	// shop is what every job is dressed with.
	shop shopCache
}

// Errors callers tell apart.
var (
	ErrNotFound = errors.New("store: not found")
	ErrTaken    = errors.New("store: the name is taken")
	ErrNewer    = errors.New("this database was used by a newer Geminate")
)

// address is where a database is: what the driver is told, and all the nodes it may be reached at.
type address struct {
	cfg   *driver.Config
	nodes []string
	// conns are the most connections at a time.
	conns int
	// pictures is the store outside to which pictures are brought; nil where there is none.
	pictures blobs.Bucket
}

// connsMost are those of the first shop; a further shop of a chain has fewer, or forty shops would take all a database
// gives.
const (
	connsMost     = 24
	connsMostShop = 4
)

// How long a database may be silent in mid-answer: a node that is frozen is left for another; where there is no other
// it is waited for as long as a slow disk takes.
const (
	nodeAnswers = 3 * time.Second
	oneAnswers  = 30 * time.Second
)

// Open connects to a database by the Go driver's DSN (user:password@tcp(host:port)/name; of a replicated one
// tcp(one:3306,two:3306,three:3306)), brings its tables up to date and returns the store. Several servers may open one
// at once.
func Open(ctx context.Context, dsn string) (*Store, error) {
	at, err := addressOf(dsn)
	if err != nil {
		return nil, err
	}
	return at.open(ctx)
}

func addressOf(dsn string) (address, error) {
	dsn, several := splitNodes(dsn)
	cfg, err := driver.ParseDSN(dsn)
	if err != nil {
		return address{}, fmt.Errorf(
			"the database address cannot be read: %w. It should look like user:password@tcp(127.0.0.1:3306)/geminate",
			err,
		)
	}
	if cfg.DBName == "" {
		return address{}, errors.New(
			"the database address names no database. It should look like user:password@tcp(127.0.0.1:3306)/geminate",
		)
	}
	cfg.ParseTime, cfg.Loc, cfg.Collation = true, time.UTC, "utf8mb4_unicode_ci"
	cfg.InterpolateParams = true // one way to the server and back for a query, not three
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["time_zone"] = "'+00:00'"
	if cfg.Timeout == 0 {
		cfg.Timeout = 10 * time.Second
	}
	if cfg.ReadTimeout == 0 {
		cfg.ReadTimeout = oneAnswers
		if len(several) > 1 {
			cfg.ReadTimeout = nodeAnswers
		}
	}
	if cfg.WriteTimeout == 0 {
		cfg.WriteTimeout = cfg.ReadTimeout
	}
	return address{cfg: cfg, nodes: several, conns: connsMost}, nil
}

// idle is how many connections are kept open for the next call.
func (a address) idle() int { return max(1, a.conns/3) }

// pool connects to it.
func (a address) pool(ctx context.Context) (*sql.DB, error) {
	pool, _, err := a.poolOf(ctx)
	return pool, err
}

func (a address) poolOf(ctx context.Context) (*sql.DB, *nodes, error) {
	connector, err := nodesOf(a.cfg, a.nodes)
	if err != nil {
		return nil, nil, err
	}
	pool := sql.OpenDB(connector)
	pool.SetMaxOpenConns(a.conns)
	pool.SetMaxIdleConns(a.idle())
	pool.SetConnMaxLifetime(30 * time.Minute)
	pool.SetConnMaxIdleTime(5 * time.Minute)
	if err := pool.PingContext(ctx); err != nil {
		return nil, nil, errors.Join(
			fmt.Errorf("the database at %s does not answer for %s: %w%s", a.cfg.Addr, a.cfg.User, err,
				wayIn(err, a.cfg.User, a.cfg.DBName)),
			pool.Close(),
		)
	}
	return pool, connector, nil
}

func (a address) open(ctx context.Context) (*Store, error) {
	pool, connector, err := a.poolOf(ctx)
	if err != nil {
		return nil, err
	}
	if err := a.migrated(ctx); err != nil {
		return nil, errors.Join(err, pool.Close())
	}
	db, err := gorm.Open(gormmysql.New(gormmysql.Config{Conn: pool}), &gorm.Config{
		Logger:         logger.Default.LogMode(logger.Silent),
		NowFunc:        func() time.Time { return time.Now().UTC() },
		TranslateError: true,
	})
	if err != nil {
		return nil, errors.Join(fmt.Errorf("the database: %w", err), pool.Close())
	}
	s := &Store{db: db, sql: pool, at: a, nodes: connector}
	return s, s.watchNodes(db)
}

// patient is the same for what takes long: migrations, backups.
func (a address) patient() address {
	a.cfg = a.cfg.Clone()
	a.cfg.ReadTimeout, a.cfg.WriteTimeout = 0, 0
	return a
}

// migrated brings the tables up to date over a connection that may take its time.
//
// A replicated database keeps a named lock on the node that was asked for it alone: all servers ask the same one first,
// by its name and not by which is nearest. Where they do not see the same nodes they may still meet; whoever comes
// second then looks again.
func (a address) migrated(ctx context.Context) (err error) {
	a = a.patient()
	a.nodes = slices.Sorted(slices.Values(a.nodes))
	for try := 0; ; try++ {
		pool, reached := a.pool(ctx)
		if reached != nil {
			return reached
		}
		err = errors.Join(migrate(ctx, pool), pool.Close())
		if err == nil || len(a.nodes) < 2 || try == meetMost || errors.Is(err, ErrNewer) {
			return err
		}
		select {
		case <-ctx.Done():
			return err
		case <-time.After(meetAgain + rand.N(meetAgain)):
		}
	}
}

// How often, and after how long, a server that met another's migrations looks again.
const (
	meetMost  = 8
	meetAgain = time.Second
)

func migrate(ctx context.Context, pool *sql.DB) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectMySQL, pool, files, goose.WithSessionLocker(namedLock{}),
		goose.WithSlog(slog.New(slog.DiscardHandler)),
		goose.WithGoMigrations(goose.NewGoMigration(4, &goose.GoFunc{RunDB: upgradeData}, nil)))
	if err != nil {
		return fmt.Errorf("migrations: %w", err)
	}
	known := p.ListSources()
	if at, err := p.GetDBVersion(ctx); err != nil {
		return fmt.Errorf("migrations: %w", err)
	} else if newest := known[len(known)-1].Version; at > newest {
		return fmt.Errorf(
			"%w: its tables are of version %d, this program knows %d. Start the newer program, or restore a backup made with this one",
			ErrNewer,
			at,
			newest,
		)
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("bringing the database's tables up to date: %w", err)
	}
	return nil
}

// namedLock is held by whoever brings the tables up to date: several servers may start on one database at the same
// moment. It is the database's own (GET_LOCK) and dies with its connection: a server killed in mid-start leaves nothing
// that another waits for.
type namedLock struct{}

// lockFor is how long a server waits for another's migrations.
const lockFor = 60

// SessionLock implements lock.SessionLocker.
func (namedLock) SessionLock(ctx context.Context, conn *sql.Conn) error {
	var got sql.NullInt64
	if err := conn.QueryRowContext(ctx, "SELECT GET_LOCK(CONCAT('geminate ', LEFT(SHA1(DATABASE()), 40)), ?)", lockFor).
		Scan(&got); err != nil {
		return err
	}
	if got.Int64 != 1 {
		return errors.New("another server has been bringing the tables up to date for a minute; start again when it is done")
	}
	return nil
}

// SessionUnlock implements lock.SessionLocker.
func (namedLock) SessionUnlock(ctx context.Context, conn *sql.Conn) error {
	_, err := conn.ExecContext(ctx, "SELECT RELEASE_LOCK(CONCAT('geminate ', LEFT(SHA1(DATABASE()), 40)))")
	return err
}

// Ping says whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.sql.PingContext(ctx) }

// Ready says whether the database takes what is written, not only whether it answers.
func (s *Store) Ready(ctx context.Context) error {
	if err := s.Ping(ctx); err != nil {
		return err
	}
	return s.WebState("health").SetWithContext(ctx, "probe", []byte{1}, time.Minute)
}

// Close closes the connections.
func (s *Store) Close() error { return s.sql.Close() }

func notFound(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}
