package store

import (
	"context"
	"errors"
	"math/rand/v2"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/gorm"
)

// A write that a replicated or busy database turned away is tried again: two writers on one row meet at commit there, a
// node that lost its cluster takes none, a node that was killed takes its connections with it.

const (
	againMost  = 80                    // tries of one write
	againFor   = 8 * time.Second       // as long as a hand waits for a tap; what is still refused then is told
	goneFor    = 2 * time.Second       // where the connection is gone: another node answers at once, and one alone is told to be away
	againFirst = 10 * time.Millisecond // before the second try, doubled each time, at random up to that
	againEach  = 250 * time.Millisecond
)

// Numbers a database answers to what may go well another time.
const (
	errDeadlock   = 1213 // ended to break a deadlock, or by the certification of another node's write
	errLockWait   = 1205 // waited too long for a row
	errNotReady   = 1047 // a node that does not (yet, or any more) belong to its cluster
	errCheckRead  = 1020 // the row changed between its reading and its writing
	errReadOnly   = 1290 // a node that only reads
	errKilled     = 1927 // the connection was ended by the server
	errInShutdown = 1053
	// errAtCommit is an error during COMMIT: a replicated node says so of a write that its cluster did not take (its
	// text has errno 6, or that of a lost quorum). Numbers and names: MariaDB's own list of error codes.
	errAtCommit = 1180
)

// turnedAway says whether a write may go well another time, and gone whether its connection, or the node behind it,
// will not: then it is not known whether the write was done, and it is tried again only where doing it twice is the
// same as once.
func turnedAway(err error) (again, gone bool) {
	var my *driver.MySQLError
	if errors.As(err, &my) {
		switch my.Number {
		case errDeadlock, errLockWait, errCheckRead, errAtCommit:
			return true, false
		case errNotReady, errReadOnly, errKilled, errInShutdown:
			return true, true
		}
		return false, false
	}
	return IsAway(err) && !errors.Is(err, context.DeadlineExceeded), true
}

// tryAgain runs a write until it is taken, is refused for what it is, or has been tried long enough. A write of a shop
// may be done twice: rows have ids of their own, and what is there is found there; a line of the audit may then stand
// twice.
func (s *Store) tryAgain(ctx context.Context, write func() error) error {
	began := time.Now()
	pause, until := againFirst, began.Add(againFor)
	for n := 1; ; n++ {
		at := s.nodes.good.Load()
		err := write()
		if err == nil {
			return nil
		}
		again, gone := turnedAway(err)
		if gone {
			until = earlier(until, began.Add(s.goneFor()))
			s.letGo(at)
		}
		if !again || n >= againMost || time.Now().After(until) || ctx.Err() != nil {
			return err
		}
		select {
		case <-ctx.Done():
			return err
		case <-time.After(time.Duration(rand.Int64N(int64(pause) + 1))):
		}
		pause = min(2*pause, againEach)
	}
}

func earlier(a, b time.Time) time.Time {
	if b.Before(a) {
		return b
	}
	return a
}

// goneFor is how long a write is tried that lost its connection. With several nodes the first may have been frozen: it
// has cost its whole silence before anything was heard, and another answers at once.
func (s *Store) goneFor() time.Duration {
	if len(s.at.nodes) > 1 {
		return nodeAnswers + goneFor
	}
	return goneFor
}

// letGo leaves the node that was asked, and closes the connections that are not in use: those of a node that is gone
// would be handed out one by one.
func (s *Store) letGo(at int64) {
	s.nodes.leave(at)
	s.sql.SetMaxIdleConns(0)
	s.sql.SetMaxIdleConns(s.at.idle())
}

// watchNodes leaves a node on whatever call is lost, a reading one as well: it is asked again by whoever asked.
func (s *Store) watchNodes(db *gorm.DB) error {
	const asked = "geminate:asked"
	before := func(tx *gorm.DB) { tx.InstanceSet(asked, s.nodes.good.Load()) }
	after := func(tx *gorm.DB) {
		if _, gone := turnedAway(tx.Error); tx.Error == nil || !gone || !IsAway(tx.Error) {
			return
		}
		if at, ok := tx.InstanceGet(asked); ok {
			s.letGo(at.(int64))
		}
	}
	c := db.Callback()
	return errors.Join(c.Query().Before("gorm:query").Register(asked, before),
		c.Query().After("gorm:query").Register(asked+" after", after), c.Raw().Before("gorm:raw").Register(asked, before),
		c.Raw().After("gorm:raw").Register(asked+" after", after), c.Row().Before("gorm:row").Register(asked, before),
		c.Row().After("gorm:row").Register(asked+" after", after))
}

// write is a single statement that is tried again.
func (s *Store) write(ctx context.Context, statement func(db *gorm.DB) error) error {
	return s.tryAgain(ctx, func() error { return statement(s.db.WithContext(ctx)) })
}
