package store

import (
	"errors"
	"fmt"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
)

// Whoever is kept out of a database is told the lines that let them in. Numbers: MariaDB's error codes.
func TestTheWayIn(t *testing.T) {
	for number, want := range map[uint16]string{1049: "CREATE DATABASE geminate", 1044: "GRANT ALL PRIVILEGES ON geminate.* TO 'shop'@'%'", 1045: "CREATE USER 'shop'@'%'"} {
		err := fmt.Errorf("ping: %w", &mysql.MySQLError{Number: number})
		assert.Contains(t, wayIn(err, "shop", "geminate"), want)
	}
	assert.Empty(t, wayIn(&mysql.MySQLError{Number: 1053}, "shop", "geminate"))
	assert.Empty(t, wayIn(errors.New("no route"), "shop", "geminate"))
}
