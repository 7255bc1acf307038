package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
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
	case errors.Is(err, driver.ErrBadConn),
		strings.Contains(err.Error(), "sql: database is closed"),
		errors.Is(err, mysql.ErrInvalidConn),
		errors.Is(err, syscall.ECONNREFUSED),
		errors.Is(err, syscall.ECONNRESET),
		errors.Is(err, io.ErrUnexpectedEOF),
		errors.As(err, &op):
		return true
	case errors.As(err, &my): // too many connections; or turned away, as often as it was tried
		again, _ := turnedAway(my)
		return again || my.Number == 1040
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

// wayIn is what whoever keeps the database does about being kept out of it; "" where that is not the matter.
func wayIn(err error, user, database string) string {
	var my *mysql.MySQLError
	if !errors.As(err, &my) {
		return ""
	}
	grant := fmt.Sprintf("GRANT ALL PRIVILEGES ON %s.* TO '%s'@'%%';", database, user)
	switch my.Number {
	case 1049: // no such database
		return fmt.Sprintf("\nMake it, as its administrator: CREATE DATABASE %s CHARACTER SET utf8mb4; %s", database, grant)
	case 1044, 1142: // not allowed in it
		return "\nLet the account into it, as its administrator: " + grant
	case 1045: // wrong password, or no such account
		return fmt.Sprintf("\nThe account or its password is wrong. As its administrator: CREATE USER '%s'@'%%' IDENTIFIED BY '…'; %s",
			user, grant)
	}
	return ""
}
