package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }

var ctx = context.Background()

func open(t *testing.T) *Store { return openTB(t) }

func openTB(t testing.TB) *Store {
	t.Helper()
	s, err := Open(ctx, testdb.DSN(t))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	return s
}

func someJob(t *testing.T, id string) *job.Job {
	t.Helper()
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	return &job.Job{Format: job.Format, ID: id, CreatedAt: time.Date(2026, 11, 24, 8, 30, 0, 0, time.UTC),
		Intake: job.Intake{Vehicle: "Pickup – é", System: s, Pattern: "pickup-front-rear-vacuum"}, Choices: job.DefaultChoices(s), Events: []job.Event{}}
}

func stroke(id string) job.Event {
	return job.Event{ID: id, Kind: job.KindBleedStroke, At: time.Date(2026, 11, 24, 9, 0, 0, 5e6, time.UTC), By: "T", Data: job.Data{Wheel: "RR"}}
}

func check(j *job.Job, e job.Event) error { return j.CheckEvent(e) }

func TestJobComesBackAsItWas(t *testing.T) {
	s := open(t)
	want := someJob(t, "a")
	want.Events = []job.Event{stroke("e1"), {ID: "e2", Kind: job.KindNote, At: want.CreatedAt, By: "ü", Data: job.Data{Text: "wet – 湿"}}}
	require.NoError(t, s.AddJob(ctx, want))
	got, err := s.Job(ctx, "a")
	require.NoError(t, err)
	assert.Equal(t, *want, got.Job)
	assert.Equal(t, time.UTC, got.Job.CreatedAt.Location())
	_, err = s.Job(ctx, "b")
	assert.ErrorIs(t, err, ErrNotFound)
	assert.ErrorIs(t, s.AddJob(ctx, want), ErrTaken)
	all, err := s.Jobs(ctx, 10)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Len(t, all[0].Job.Events, 2)
}

func TestRetriedEventCountsOnce(t *testing.T) {
	s := open(t)
	require.NoError(t, s.AddJob(ctx, someJob(t, "a")))
	var wg sync.WaitGroup
	for i := 0; i < 40; i++ { // eight clients, each stroke sent by five of them at once
		wg.Add(1)
		go func() {
			defer wg.Done()
			_, err := s.Append(ctx, "a", []job.Event{stroke(fmt.Sprintf("e%d", i%8))}, check)
			assert.NoError(t, err)
		}()
	}
	wg.Wait()
	got, err := s.Job(ctx, "a")
	require.NoError(t, err)
	st := got.Job.Fold()
	assert.Equal(t, 8, st.BleedStrokes["RR"])
}

func TestOneRefusedEventRefusesTheBatch(t *testing.T) {
	s := open(t)
	require.NoError(t, s.AddJob(ctx, someJob(t, "a")))
	bad := stroke("e2")
	bad.Data.Wheel = "nowhere"
	_, err := s.Append(ctx, "a", []job.Event{stroke("e1"), bad}, check)
	var f system.Faults
	require.True(t, errors.As(err, &f))
	got, _ := s.Job(ctx, "a")
	assert.Empty(t, got.Job.Events)
	_, err = s.Append(ctx, "none", []job.Event{stroke("e1")}, check)
	assert.ErrorIs(t, err, ErrNotFound)
}

func TestTwoEditorsAreToldNotOverwritten(t *testing.T) {
	s := open(t)
	require.NoError(t, s.AddJob(ctx, someJob(t, "a")))
	mine, theirs := someJob(t, "a").Intake, someJob(t, "a").Intake
	theirs.Complaint, mine.Complaint = "theirs", "mine"
	none := func(*job.Job) {}
	free := func(*job.Job) error { return nil }
	_, err := s.SaveIntake(ctx, "a", 1, theirs, free, none)
	require.NoError(t, err)
	now, err := s.SaveIntake(ctx, "a", 1, mine, free, none)
	assert.ErrorIs(t, err, ErrStale)
	assert.Equal(t, "theirs", now.Job.Intake.Complaint, "what is stored comes back with the refusal")
	c := job.DefaultChoices(mine.System)
	c.Scope = match.Both
	st, err := s.SaveChoices(ctx, "a", 1, c, free)
	require.NoError(t, err)
	assert.Equal(t, 2, st.ChoicesVersion)
	_, err = s.SaveChoices(ctx, "a", 1, c, free)
	assert.ErrorIs(t, err, ErrStale)
	st, err = s.SaveIntake(ctx, "a", 2, mine, free, func(j *job.Job) { j.Choices.Scope = match.CylinderOnly })
	require.NoError(t, err)
	no := errors.New("no")
	_, err = s.SaveChoices(ctx, "a", 3, c, func(*job.Job) error { return no })
	assert.ErrorIs(t, err, no)
	assert.Equal(t, 3, st.ChoicesVersion, "choices changed with the system count as an edit")
}

func TestSeveralServersMigrateOneDatabase(t *testing.T) {
	dsn := testdb.DSN(t)
	var wg sync.WaitGroup
	for i := 0; i < 4; i++ {
		wg.Add(1)
		go func() {
			defer wg.Done()
			s, err := Open(ctx, dsn)
			if assert.NoError(t, err) {
				assert.NoError(t, s.Close())
			}
		}()
	}
	wg.Wait()
}

func TestBadAddressesAreExplained(t *testing.T) {
	for dsn, want := range map[string]string{
		"nonsense":                       "should look like",
		"u:p@tcp(127.0.0.1:1)/":          "names no database",
		"u:p@tcp(127.0.0.1:1)/geminate":  "does not answer",
		"u:p@tcp(127.0.0.1:99999999)/gm": "does not answer",
	} {
		_, err := Open(ctx, dsn)
		assert.ErrorContains(t, err, want, dsn)
	}
}

func TestUsersAndShelf(t *testing.T) {
	s := open(t)
	u := &User{ID: "1", Name: "ana", Display: "Ana", Role: RoleLead, PasswordHash: "x", Units: "both", Theme: "day", CreatedAt: time.Now().UTC()}
	require.NoError(t, s.AddUser(ctx, u))
	assert.ErrorIs(t, s.AddUser(ctx, &User{ID: "2", Name: "ana"}), ErrTaken)
	require.NoError(t, s.SetPreferences(ctx, "1", "us", "night"))
	got, err := s.UserByName(ctx, "ana")
	require.NoError(t, err)
	assert.Equal(t, "us", got.Units)
	_, err = s.User(ctx, "9")
	assert.ErrorIs(t, err, ErrNotFound)
	n, err := s.Users(ctx)
	require.NoError(t, err)
	assert.EqualValues(t, 1, n)

	bore := 25.4
	units := []match.Unit{{ID: "u1", BoreMM: &bore, Ports: []match.Port{}, Contents: []string{}}, {ID: "u2"}}
	require.NoError(t, s.PutUnits(ctx, units))
	require.NoError(t, s.PutUnits(ctx, units), "safe to repeat")
	shelf, err := s.Shelf(ctx)
	require.NoError(t, err)
	want, _ := json.Marshal(units)
	have, _ := json.Marshal(shelf)
	assert.JSONEq(t, string(want), string(have))
}

func TestWebStateExpires(t *testing.T) {
	s := open(t)
	w := s.WebState("x")
	require.NoError(t, w.Set("stays", []byte("1"), 0))
	require.NoError(t, w.Set("goes", []byte("2"), 30*time.Millisecond))
	v, err := w.Get("goes")
	require.NoError(t, err)
	assert.Equal(t, "2", string(v))
	time.Sleep(60 * time.Millisecond)
	v, err = w.Get("goes")
	require.NoError(t, err)
	assert.Nil(t, v)
	n, err := s.PruneWebState(ctx)
	require.NoError(t, err)
	assert.EqualValues(t, 1, n)
	other := s.WebState("y")
	v, _ = other.Get("stays")
	assert.Nil(t, v, "prefixes keep apart")
	require.NoError(t, w.Reset())
	v, _ = w.Get("stays")
	assert.Nil(t, v)
}
