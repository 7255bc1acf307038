package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"regexp"
	"strings"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
)

// nodes connects to the first of several nodes that takes writes, in their order from the one last found good: the
// address of a database may name several, "user:password@tcp(one:3306,two:3306)/geminate".
type nodes struct {
	each []driver.Connector
	addr []string
	good atomic.Int64
}

// nodeDial is how long one of several nodes is waited for: a machine that is gone does not answer at all.
const nodeDial = 2 * time.Second

// severalNodes finds the addresses in a database's address, where it names more than one.
var severalNodes = regexp.MustCompile(`tcp\(([^()]*,[^()]*)\)`)

// splitNodes gives the address as of its first node, which the driver can read, and the addresses of all; none where it
// is one.
func splitNodes(dsn string) (first string, all []string) {
	m := severalNodes.FindStringSubmatch(dsn)
	if m == nil {
		return dsn, nil
	}
	for _, addr := range strings.Split(m[1], ",") {
		addr = strings.TrimSpace(addr)
		if _, _, err := net.SplitHostPort(addr); err != nil {
			addr = net.JoinHostPort(addr, "3306")
		}
		all = append(all, addr)
	}
	return strings.Replace(dsn, m[0], "tcp("+all[0]+")", 1), all
}

// nodesOf connects to what an address names.
func nodesOf(cfg *mysql.Config, all []string) (*nodes, error) {
	out := &nodes{}
	if len(all) == 0 {
		all = []string{cfg.Addr}
	}
	for _, addr := range all {
		one := cfg.Clone()
		one.Addr = addr
		if len(all) > 1 {
			one.Timeout = min(cfg.Timeout, nodeDial)
		}
		c, err := mysql.NewConnector(one)
		if err != nil {
			return nil, fmt.Errorf("the database address: %w", err)
		}
		out.each, out.addr = append(out.each, c), append(out.addr, one.Addr)
	}
	return out, nil
}

// Connect implements driver.Connector.
func (n *nodes) Connect(ctx context.Context) (driver.Conn, error) {
	if len(n.each) == 1 {
		return n.each[0].Connect(ctx)
	}
	var all []error
	from := int(n.good.Load())
	for i := range n.each {
		at := (from + i) % len(n.each)
		conn, err := n.reach(ctx, at)
		if err == nil {
			n.good.Store(int64(at))
			return conn, nil
		}
		all = append(all, fmt.Errorf("%s: %w", n.addr[at], err))
		if ctx.Err() != nil {
			break
		}
	}
	return nil, errors.Join(all...)
}

// reach connects to one of several, that takes writes, in the time one is waited for: the machine of a frozen one still
// takes connections.
func (n *nodes) reach(ctx context.Context, at int) (driver.Conn, error) {
	ctx, cancel := context.WithTimeout(ctx, nodeDial)
	defer cancel()
	conn, err := n.each[at].Connect(ctx)
	if err != nil {
		return nil, err
	}
	if err = takesWrites(ctx, conn); err != nil {
		return nil, errors.Join(err, conn.Close())
	}
	return conn, nil
}

// leave goes on to the next node, where at is still the one that is asked: many calls lose the same one at once.
func (n *nodes) leave(at int64) {
	if len(n.each) > 1 {
		n.good.CompareAndSwap(at, (at+1)%int64(len(n.each)))
	}
}

// Driver implements driver.Connector.
func (n *nodes) Driver() driver.Driver { return n.each[0].Driver() }

var errTakesNone = errors.New("takes no writes at present")

// takesWrites asks a node whether it does: one that has lost its cluster answers no query but with an error, one that
// only reads says so.
func takesWrites(ctx context.Context, conn driver.Conn) (err error) {
	q, ok := conn.(driver.QueryerContext)
	if !ok {
		return nil
	}
	rows, err := q.QueryContext(ctx, "SELECT @@read_only", nil)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	row := make([]driver.Value, 1)
	if err := rows.Next(row); err != nil {
		if errors.Is(err, io.EOF) {
			return errTakesNone
		}
		return err
	}
	if s := fmt.Sprintf("%s", row[0]); s != "0" && fmt.Sprint(row[0]) != "0" {
		return errTakesNone
	}
	return nil
}
