package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"
	"syscall"

	"github.com/go-sql-driver/mysql"
)

// IsAway says whether an error means that the database cannot be reached just now.
func IsAway(err error) bool {
	var op *net.OpError
	var my *mysql.MySQLError
	switch {
	case err == nil:
		return false
	case errors.Is(err, driver.ErrBadConn), strings.Contains(err.Error(), "sql: database is closed"), errors.Is(err, mysql.ErrInvalidConn), errors.Is(err, syscall.ECONNREFUSED), errors.Is(err, syscall.ECONNRESET),
		errors.Is(err, io.ErrUnexpectedEOF), errors.As(err, &op):
		return true
	case errors.As(err, &my): // shutting down; too many connections; not allowed in yet
		return my.Number == 1053 || my.Number == 1040 || my.Number == 1927
	}
	return errors.Is(err, context.DeadlineExceeded)
}

// IsFull says whether an error means that the disk under the database is full.
func IsFull(err error) bool {
	if errors.Is(err, syscall.ENOSPC) {
		return true
	}
	var my *mysql.MySQLError
	if !errors.As(err, &my) {
		return false
	}
	switch my.Number {
	case 1021, 1114: // disk full; table full
		return true
	case 3, 1026, 1030, 1296: // error writing; error from the storage engine: errno 28 is ENOSPC
		return strings.Contains(my.Message, "28")
	}
	return strings.Contains(my.Message, "No space left")
}
