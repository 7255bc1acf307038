package store

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"sync"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/gorm"
)

// A chain is several shops in one installation. Every shop has a database of its own, so that no query of one can name,
// count or export what is another's, however it was written: a shop is taken out, backed up and brought in elsewhere
// whole. The first shop's database keeps the list; where there is one shop, the list is empty and nothing is different.

// Code is how a shop of a chain is called: short, told at sign-in, a part of its database's name. First has none.
type Code string

// First is the shop of the installation's own database.
const First Code = ""

var codeForm = regexp.MustCompile(`^[a-z][a-z0-9]{1,19}$`)

// Errors of a chain's commands.
var (
	ErrCode     = errors.New("a shop is called by 2 to 20 small letters and digits, a letter first: north, harbour2")
	ErrShopHere = errors.New("there is a shop of this code already")
	ErrNoShop   = errors.New("there is no shop of this code")
)

// Valid says whether it can be one of a further shop.
func (c Code) Valid() bool { return codeForm.MatchString(string(c)) }

type shopRow struct {
	Code   Code `gorm:"primaryKey"`
	MadeAt time.Time
}

func (shopRow) TableName() string { return "shops" }

// Chain opens the shops of an installation as they are asked for.
type Chain struct {
	first *Store
	mu    sync.Mutex
	open  map[Code]*opening
	codes []Code
	at    time.Time // the list was read
}

// opening is a shop that is open, or being opened: the first who asks opens it, the others wait for that.
type opening struct {
	done chan struct{}
	st   *Store
	err  error
}

// Shops is the chain whose list this store keeps.
func (s *Store) Shops() *Chain { return &Chain{first: s, open: map[Code]*opening{}} }

// Codes lists the further shops, by name. Where that cannot be read just now the last list counts.
func (c *Chain) Codes(ctx context.Context) ([]Code, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if time.Since(c.at) < shopFor {
		return c.codes, nil
	}
	var rows []shopRow
	if err := c.first.db.WithContext(ctx).Order("code").Find(&rows).Error; err != nil {
		if c.codes != nil {
			return c.codes, nil
		}
		return nil, fmt.Errorf("store: shops: %w", err)
	}
	c.codes, c.at = make([]Code, len(rows)), time.Now()
	for i, r := range rows {
		c.codes[i] = r.Code
	}
	for code, o := range c.open { // taken out meanwhile
		if !slices.Contains(c.codes, code) {
			delete(c.open, code)
			go o.close()
		}
	}
	return c.codes, nil
}

func (o *opening) close() {
	if <-o.done; o.st != nil {
		_ = o.st.Close()
	}
}

// Shop gives one shop's store; ErrNotFound where there is none of this code.
func (c *Chain) Shop(ctx context.Context, code Code) (*Store, error) {
	if code == First {
		return c.first, nil
	}
	codes, err := c.Codes(ctx)
	if err == nil && !slices.Contains(codes, code) && c.olderThan(newsAfter) { // added a moment ago, by a command beside this server?
		c.again()
		codes, err = c.Codes(ctx)
	}
	if err != nil {
		return nil, err
	}
	if !slices.Contains(codes, code) {
		return nil, ErrNotFound
	}
	c.mu.Lock()
	o, there := c.open[code]
	if !there {
		o = &opening{done: make(chan struct{})}
		c.open[code] = o
		go func() { // not of the request that came first: the others wait for it too
			at := c.addressOf(code)
			ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
			defer cancel()
			o.st, o.err = at.open(ctx)
			if o.err != nil {
				c.mu.Lock()
				delete(c.open, code)
				c.mu.Unlock()
			}
			close(o.done)
		}()
	}
	c.mu.Unlock()
	select {
	case <-ctx.Done():
		return nil, ctx.Err()
	case <-o.done:
		return o.st, o.err
	}
}

// Each runs fn for every shop, the first one first.
func (c *Chain) Each(ctx context.Context, fn func(Code, *Store) error) error {
	codes, err := c.Codes(ctx)
	if err != nil {
		return err
	}
	for _, code := range append([]Code{First}, codes...) {
		st, err := c.Shop(ctx, code)
		if errors.Is(err, ErrNotFound) {
			continue // taken out meanwhile
		}
		if err == nil {
			err = fn(code, st)
		}
		if err != nil {
			return fmt.Errorf("shop %q: %w", code, err)
		}
	}
	return nil
}

// addressOf is where a further shop's database is: beside the first one's, by its name.
func (c *Chain) addressOf(code Code) address {
	at := c.first.at
	cfg := at.cfg.Clone()
	cfg.DBName += "_" + string(code)
	return address{cfg: cfg, nodes: at.nodes, conns: connsMostShop, pictures: at.pictures}
}

// Add makes a shop, empty.
func (c *Chain) Add(ctx context.Context, code Code) (*Store, error) {
	if !code.Valid() {
		return nil, ErrCode
	}
	name := c.addressOf(code).cfg.DBName
	if _, err := c.first.sql.ExecContext(ctx, "CREATE DATABASE `"+name+"` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"); err != nil {
		var e *driver.MySQLError
		switch {
		case errors.As(err, &e) && e.Number == 1007: // ER_DB_CREATE_EXISTS
			return nil, ErrShopHere
		case errors.As(err, &e) && e.Number == 1044: // ER_DBACCESS_DENIED_ERROR
			return nil, fmt.Errorf(
				"the database account may not make %s: %w. As its administrator: GRANT ALL PRIVILEGES ON `%s\\_%%`.* TO the account Geminate uses",
				name,
				err,
				c.first.at.cfg.DBName,
			)
		}
		return nil, fmt.Errorf("store: shop %s: %w", code, err)
	}
	if err := c.first.write(ctx, func(db *gorm.DB) error { return db.Create(&shopRow{code, time.Now().UTC()}).Error }); err != nil {
		return nil, fmt.Errorf("store: shop %s: %w", code, err)
	}
	c.again()
	return c.Shop(ctx, code)
}

// Remove takes a shop out of the chain with all it has: back it up first.
func (c *Chain) Remove(ctx context.Context, code Code) error {
	codes, err := c.Codes(ctx)
	if err != nil {
		return err
	}
	if !slices.Contains(codes, code) {
		return ErrNoShop
	}
	// Off the list first: what is half gone must not be opened.
	if err := c.first.write(ctx, func(db *gorm.DB) error { return db.Where("code = ?", code).Delete(&shopRow{}).Error }); err != nil {
		return err
	}
	c.again()
	if _, err := c.Codes(ctx); err != nil {
		return err
	}
	_, err = c.first.sql.ExecContext(ctx, "DROP DATABASE `"+c.addressOf(code).cfg.DBName+"`")
	return err
}

// newsAfter is how old the list is before a code that is not in it has it read anew: made-up codes do not keep the
// database busy.
const newsAfter = time.Second

func (c *Chain) olderThan(d time.Duration) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	return time.Since(c.at) > d
}

func (c *Chain) again() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.at = time.Time{}
}

// Close closes every further shop that is open.
func (c *Chain) Close() {
	c.mu.Lock()
	open := slices.Collect(maps.Values(c.open))
	c.open = map[Code]*opening{}
	c.mu.Unlock()
	for _, o := range open {
		o.close()
	}
}
