package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/require"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"

	"geminate/demo"
	"geminate/internal/testdb"
	"geminate/server"
	"geminate/store"
)

// BenchmarkBesideABareProgram times a job and a stored stroke over HTTP beside a program of Fiber and GORM alone
// that makes the same queries on the same database: what is above it is ours.
func BenchmarkBesideABareProgram(b *testing.B) {
	dsn := testdb.DSN(b)
	st, err := store.Open(context.Background(), dsn)
	require.NoError(b, err)
	b.Cleanup(func() { _ = st.Close() })
	require.NoError(b, demo.LoadWith(context.Background(), st, time.Now(), 10, 0))
	db, err := gorm.Open(mysql.Open(dsn+"?parseTime=true&interpolateParams=true"),
		&gorm.Config{Logger: logger.Default.LogMode(logger.Silent)})
	require.NoError(b, err)
	serve := func(app *fiber.App) string {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(b, err)
		go func() { _ = app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true}) }()
		b.Cleanup(func() { _ = app.ShutdownWithTimeout(2 * time.Second) })
		return "http://" + l.Addr().String()
	}
	ours, bare := serve(server.New(b.Context(), server.Config{Store: st, Demo: demo.Accounts})), serve(bareApp(db))
	cookies, token := signInFor(b, ours)
	page, err := st.Bay(context.Background(), store.BayQuery{Text: "pickup", Limit: 1})
	require.NoError(b, err)
	var card struct{ ID string }
	require.NoError(b, json.Unmarshal(page.Cards[0], &card))
	n := 0
	ask := func(b *testing.B, method, url string, body []byte) {
		req, _ := http.NewRequest(method, url, bytes.NewReader(body))
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("X-Csrf-Token", token)
		req.Header.Set("Accept-Encoding", "identity") // the bare program does not compress: the same bytes of both
		for _, c := range cookies {
			req.AddCookie(c)
		}
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			b.Fatal(err)
		}
		answer, _ := io.ReadAll(res.Body)
		_ = res.Body.Close()
		if res.StatusCode != 200 {
			b.Fatal(res.StatusCode, string(answer))
		}
	}
	stroke := func() []byte {
		n++
		return fmt.Appendf(nil, `{"events":[{"id":"b%d","kind":"bleed_stroke","at":"2026-11-25T10:00:00Z","data":{"wheel":"RR"}}]}`, n)
	}
	for name, run := range map[string]func(*testing.B){
		"get-ours":    func(b *testing.B) { ask(b, "GET", ours+"/api/jobs/"+card.ID, nil) },
		"get-bare":    func(b *testing.B) { ask(b, "GET", bare+"/job/"+card.ID, nil) },
		"stroke-ours": func(b *testing.B) { ask(b, "POST", ours+"/api/jobs/"+card.ID+"/events", stroke()) },
		"stroke-bare": func(b *testing.B) { ask(b, "POST", bare+"/job/"+card.ID, stroke()) },
	} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				run(b)
			}
		})
	}
}

func signInFor(b *testing.B, base string) ([]*http.Cookie, string) {
	res, err := http.Post(base+"/api/session", "application/json", bytes.NewReader([]byte(`{"name":"mara","demo":true}`)))
	require.NoError(b, err)
	defer func() { _ = res.Body.Close() }()
	for _, c := range res.Cookies() {
		if c.Name == "geminate_csrf" {
			return res.Cookies(), c.Value
		}
	}
	b.Fatal("no token")
	return nil, ""
}

// bareApp makes the queries of a job and of a stroke and nothing else.
func bareApp(db *gorm.DB) *fiber.App {
	type row struct {
		ID, View string
		Fold     int
	}
	app := fiber.New()
	who := func(tx *gorm.DB) error {
		var v, u map[string]any
		if err := tx.Raw("SELECT * FROM web_state WHERE k LIKE 'session:%' LIMIT 1").Scan(&v).Error; err != nil {
			return err
		}
		return tx.Raw("SELECT * FROM users WHERE id = 'demo-mara' LIMIT 1").Scan(&u).Error
	}
	app.Get("/job/:id", func(c fiber.Ctx) error {
		var r row
		if err := who(db); err != nil {
			return err
		}
		if err := db.Table("job_views").Select("job_id id", "view", "fold").Where("job_id = ?", c.Params("id")).Take(&r).Error; err != nil {
			return err
		}
		return c.Type("json").SendString(r.View)
	})
	k := time.Now().UnixNano()
	app.Post("/job/:id", func(c fiber.Ctx) error {
		var r row
		if err := who(db); err != nil {
			return err
		}
		err := db.Transaction(func(tx *gorm.DB) error {
			if err := tx.Table("job_views").
				Clauses(clause.Locking{Strength: "UPDATE"}).
				Select("job_id id", "view", "fold").
				Where("job_id = ?", c.Params("id")).
				Take(&r).
				Error; err != nil {
				return err
			}
			k++
			var found []map[string]any
			if err := tx.Raw("SELECT * FROM log WHERE job_id = ? AND id IN (?)", r.ID, fmt.Sprint("x", k)).Scan(&found).Error; err != nil {
				return err
			}
			if err := tx.Exec(
				"INSERT INTO log (job_id, n, id, kind, at, stored_at, by_name, data) VALUES ('bare', ?, ?, 'x', NOW(), NOW(), '', '{}')",
				k%2_000_000_000,
				fmt.Sprint("x", k),
			).Error; err != nil {
				return err
			}
			return tx.Exec("UPDATE job_views SET view = ? WHERE job_id = ?", r.View, r.ID).Error
		})
		if err != nil {
			return err
		}
		return c.Type("json").SendString(r.View)
	})
	return app
}
