package store

import (
	"context"
	"errors"
	"net"
	"strings"
	"testing"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"geminate/internal/testdb"
)

// What another writer, or a node, turned away is tried again; what is refused for what it is is not; and not for ever.
func TestAWriteThatWasTurnedAwayIsTriedAgain(t *testing.T) {
	s := open(t)
	for _, number := range []uint16{1213, 1205, 1047, 1020, 1290} {
		n := 0
		err := s.write(ctx, func(*gorm.DB) error {
			if n++; n < 4 {
				return &driver.MySQLError{Number: number}
			}
			return nil
		})
		assert.NoError(t, err, number)
		assert.Equal(t, 4, n, number)
	}
	n := 0
	lost := s.write(ctx, func(*gorm.DB) error {
		if n++; n < 3 {
			return driver.ErrInvalidConn
		}
		return nil
	})
	assert.NoError(t, lost)
	for _, refused := range []error{&driver.MySQLError{Number: 1062}, ErrTaken, errors.New("other"), context.Canceled} {
		n = 0
		assert.ErrorIs(t, s.write(ctx, func(*gorm.DB) error { n++; return refused }), refused)
		assert.Equal(t, 1, n)
	}
	// Not for ever: as long as somebody waits for it, and then it is the database that cannot just now.
	soon, stop := context.WithTimeout(ctx, 300*time.Millisecond)
	defer stop()
	n = 0
	err := s.write(soon, func(*gorm.DB) error { n++; return &driver.MySQLError{Number: 1213} })
	var my *driver.MySQLError
	require.ErrorAs(t, err, &my)
	assert.Greater(t, n, 3)
	assert.True(t, IsAway(err))
	assert.False(t, IsAway(&driver.MySQLError{Number: 1062}))
}

// An address of several nodes: one that is not there is passed over, by whoever comes after it as well; none at all
// says of each why.
func TestSeveralNodesOfOneDatabase(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	gone := l.Addr().String()
	require.NoError(t, l.Close())
	cfg, err := driver.ParseDSN(testdb.DSN(t))
	require.NoError(t, err)
	at := func(addrs string) string {
		return strings.Replace(cfg.FormatDSN(), "tcp("+cfg.Addr+")", "tcp("+addrs+")", 1)
	}
	s, err := Open(ctx, at(gone+","+cfg.Addr))
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	set, err := s.Settings(ctx)
	require.NoError(t, err)
	require.NoError(t, s.PutSettings(ctx, set, nil))
	_, err = Open(ctx, at(gone+", "+gone))
	require.ErrorContains(t, err, gone)
}
