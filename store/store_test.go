package store

import (
	"bytes"
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

var (
	mara = job.Actor{ID: "m", Name: "Mara – ü", Role: job.Technician}
	day  = time.Date(2026, 11, 24, 8, 30, 0, 0, time.UTC)
)

func someJob(t testing.TB, id string) *job.Book {
	t.Helper()
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	b, err := job.OpenBook(
		mara,
		day,
		job.Opening{
			ID:      id,
			EventID: "open",
			Intake:  job.Intake{Vehicle: "Pickup – é", Plate: "8TK 22", Complaint: "sinks", System: s, Pattern: "pickup-front-rear-vacuum"},
		},
	)
	require.NoError(t, err)
	return b
}

func add(t testing.TB, s *Store, id string) {
	t.Helper()
	b := someJob(t, id)
	require.NoError(t, s.AddJob(ctx, b.Job, b.Events, nil))
}

func stroke(id, wheel string) job.In {
	return job.In{ID: id, Kind: job.KindBleedStroke, At: day.Add(time.Hour), Data: []byte(`{"wheel":"` + wheel + `"}`)}
}

func tell(s *Store, id string, in ...job.In) (*job.Job, error) {
	return s.Do(ctx, id, nil, func(j *job.Job, log job.Log) ([]job.Event, error) {
		return j.Append(log, mara, day.Add(2*time.Hour), in)
	})
}

func TestJobComesBackAsItWas(t *testing.T) {
	s := open(t)
	want := someJob(t, "a")
	require.NoError(t, want.Tell(mara, day.Add(time.Minute), "e1", job.KindBleedStroke, job.BleedStroked{Wheel: "RR"}))
	require.NoError(t, want.Tell(mara, day.Add(time.Minute), "e2", job.KindNote, job.Noted{Text: "wet – 湿"}))
	require.NoError(t, s.AddJob(ctx, want.Job, want.Events, nil))
	view, err := s.View(ctx, "a")
	require.NoError(t, err)
	as, err := json.Marshal(want.View())
	require.NoError(t, err)
	assert.JSONEq(t, string(as), string(view))
	events, err := s.Log(ctx, "a", 0, 0)
	require.NoError(t, err)
	was, _ := json.Marshal(want.Events)
	is, _ := json.Marshal(events)
	assert.JSONEq(t, string(was), string(is))
	some, err := s.Log(ctx, "a", 1, 1)
	require.NoError(t, err)
	require.Len(t, some, 1)
	assert.Equal(t, "e1", some[0].ID)
	_, err = s.Job(ctx, "b")
	require.ErrorIs(t, err, ErrNotFound)
	require.ErrorIs(t, s.AddJob(ctx, want.Job, want.Events, nil), ErrTaken)
	heads, err := s.Heads(ctx, []string{"a", "b"})
	require.NoError(t, err)
	assert.Equal(t, map[string]int64{"a": 3}, heads)
}

func TestRetriedEventCountsOnce(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	var wg sync.WaitGroup
	for i := range 40 { // eight clients, each stroke sent by five of them at once
		wg.Go(func() {
			_, err := tell(s, "a", stroke(fmt.Sprintf("e%d", i%8), "RR"))
			assert.NoError(t, err)
		})
	}
	wg.Wait()
	got, err := s.Job(ctx, "a")
	require.NoError(t, err)
	assert.Equal(t, 8, got.State.BleedStrokes["RR"])
	assert.EqualValues(t, 9, got.Head)
}

func TestOneRefusedEventRefusesTheBatch(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	_, err := tell(s, "a", stroke("e1", "RR"), stroke("e2", "nowhere"))
	var f system.Faults
	require.ErrorAs(t, err, &f)
	assert.Equal(t, "$.events[1].data.wheel", f[0].Path)
	got, err := s.Job(ctx, "a")
	require.NoError(t, err)
	assert.EqualValues(t, 1, got.Head)
	_, err = tell(s, "none", stroke("e1", "RR"))
	require.ErrorIs(t, err, ErrNotFound)
}

func TestIDsAreComparedToTheLetter(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	for _, id := range []string{"stroke", "Stroke", "STROKE"} {
		_, err := tell(s, "a", stroke(id, "RR"))
		require.NoError(t, err, id)
	}
	got, err := s.Job(ctx, "a")
	require.NoError(t, err)
	assert.Equal(t, 3, got.State.BleedStrokes["RR"])
}

// A view kept by an older program's rules is made anew from the log, on reading and on writing.
func TestAnOldFoldIsMadeAnew(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	_, err := tell(s, "a", stroke("e1", "RR"))
	require.NoError(t, err)
	want, err := s.View(ctx, "a")
	require.NoError(t, err)
	age := func() {
		require.NoError(t, s.db.Exec(`UPDATE job_views SET fold = 0, view = '{"fold":0}'`).Error)
	}
	age()
	got, err := s.View(ctx, "a")
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(got))
	age()
	j, err := tell(s, "a", stroke("e2", "RR"))
	require.NoError(t, err)
	assert.Equal(t, 2, j.State.BleedStrokes["RR"])
}

func TestTheBayIsPagedSearchedAndCounted(t *testing.T) {
	s := open(t)
	for i := range 7 {
		b := someJob(t, fmt.Sprint("j", i))
		b.Intake.Vehicle = []string{"Corrigan pickup", "Marrow saloon"}[i%2]
		b.Intake.Customer = []string{"Müller", "Hollin Farm", "Teasdell"}[i%3]
		b.UpdatedAt = day.Add(time.Duration(i) * time.Minute)
		require.NoError(t, s.AddJob(ctx, b.Job, b.Events, nil))
	}
	ids := func(q BayQuery) (out []string, next string) {
		page, err := s.Bay(ctx, q)
		require.NoError(t, err)
		for _, raw := range page.Cards {
			var c job.Card
			require.NoError(t, json.Unmarshal(raw, &c))
			out = append(out, c.ID)
		}
		return out, page.Next
	}
	var all []string
	for after, pages := "", 0; pages < 9; pages++ {
		got, next := ids(BayQuery{Limit: 3, After: after})
		all = append(all, got...)
		if after = next; next == "" {
			break
		}
	}
	assert.Equal(t, []string{"j6", "j5", "j4", "j3", "j2", "j1", "j0"}, all, "the last touched first, each once")
	found := func(text string) []string { got, _ := ids(BayQuery{Text: text, Limit: 50}); return got }
	assert.Equal(t, []string{"j6", "j3", "j0"}, found("muller"), "without accents")
	assert.Equal(t, []string{"j6", "j0"}, found("MÜLL corri"), "every word, from its beginning")
	assert.Len(t, found("8tk22"), 7, "a plate without its gap")
	assert.Len(t, found("sinks"), 7, "the complaint")
	assert.Empty(t, found("nothing like it"))
	assert.Empty(t, found("ller"))
	assert.Len(t, found("%"), 7, "no word at all asks for everything")
	_, err := tell(s, "j0", stroke("e", "RR"))
	require.NoError(t, err)
	got, _ := ids(BayQuery{Limit: 1})
	assert.Equal(t, []string{"j0"}, got, "touched last")
	page, err := s.Bay(ctx, BayQuery{Standing: job.StandsOpen, Station: "diagnose", Limit: 50})
	require.NoError(t, err)
	assert.Len(t, page.Cards, 7)
	assert.Equal(t, []BayCount{{"open", "diagnose", 7}}, page.Counts)
	_, err = tell(s, "j1",
		job.In{ID: "f", Kind: job.KindFinding, At: day, Data: []byte(`{"phase":"diagnose","finding":"pedal.sinks","value":"slow"}`)})
	require.NoError(t, err)
	page, err = s.Bay(ctx, BayQuery{Station: "match", Standing: job.StandsOpen, Limit: 50})
	require.NoError(t, err)
	assert.Len(t, page.Cards, 1)
	assert.Equal(t, []BayCount{{"open", "diagnose", 6}, {"open", "match", 1}}, page.Counts)
	_, err = s.Bay(ctx, BayQuery{After: "nonsense|x"})
	require.ErrorIs(t, err, ErrNotFound)
}

func TestASearchLooksThroughABoundedNumberOfJobs(t *testing.T) {
	s := open(t)
	const n = walkMost + 600
	fillShop(t, s, n, 0)
	require.NoError(t,
		s.db.Exec("INSERT INTO job_words SELECT IF(SUBSTR(id, 5) % 2, 'odd', 'even'), id FROM jobs WHERE id <> 'seed'").Error)
	require.NoError(t, s.db.Exec("INSERT INTO job_words SELECT 'even', id FROM jobs WHERE id IN ('job-0000001', 'job-0000005')").Error)
	page, err := s.Bay(ctx, BayQuery{Text: "odd ev", Limit: 10})
	require.NoError(t, err)
	assert.Empty(t, page.Cards, "the two that are meant are the oldest")
	require.NotEmpty(t, page.Next, "there is more to look through")
	page, err = s.Bay(ctx, BayQuery{Text: "odd ev", Limit: 10, After: page.Next})
	require.NoError(t, err)
	assert.Len(t, page.Cards, 2)
	assert.Empty(t, page.Next)
	seen := 0
	for after, pages := "", 0; ; pages++ {
		require.Less(t, pages, n)
		page, err := s.Bay(ctx, BayQuery{Text: "odd corr", Limit: 100, After: after})
		require.NoError(t, err)
		if seen += len(page.Cards); page.Next == "" {
			break
		}
		after = page.Next
	}
	assert.Equal(t, n/2, seen, "each once")
}

func TestAuditAndPresence(t *testing.T) {
	s := open(t)
	for i := range 5 {
		require.NoError(t, s.AddAudit(ctx, &Audit{At: day, Action: []string{"release", "sign_in"}[i%2], UserName: "Mara", JobID: "j"}))
	}
	lines, err := s.AuditLines(ctx, 0, "", "", 3)
	require.NoError(t, err)
	require.Len(t, lines, 3)
	more, err := s.AuditLines(ctx, lines[2].Seq, "", "", 3)
	require.NoError(t, err)
	assert.Len(t, more, 2)
	only, err := s.AuditLines(ctx, 0, "j", "release", 9)
	require.NoError(t, err)
	assert.Len(t, only, 3)
	add(t, s, "a")
	_, err = s.Do(ctx, "a", &Audit{At: day, Action: "edit"},
		func(*job.Job, job.Log) ([]job.Event, error) { return nil, errors.New("refused") })
	require.Error(t, err)
	only, err = s.AuditLines(ctx, 0, "", "edit", 9)
	require.NoError(t, err)
	assert.Empty(t, only, "what was refused did not happen")

	require.NoError(t, s.Here(ctx, &Presence{JobID: "a", Tab: "1", Name: "Mara"}))
	require.NoError(t, s.Here(ctx, &Presence{JobID: "a", Tab: "1", Name: "Mara"}))
	require.NoError(t, s.Here(ctx, &Presence{JobID: "a", Tab: "2", Name: "Ana"}))
	require.NoError(t, s.db.Exec("UPDATE presence SET seen_at = ? WHERE tab = '2'", time.Now().UTC().Add(-time.Minute)).Error)
	who, err := s.WhoIsHere(ctx, "a")
	require.NoError(t, err)
	require.Len(t, who, 1)
	assert.Equal(t, "Mara", who[0].Name)
	require.NoError(t, s.Gone(ctx, "a", "1"))
	who, err = s.WhoIsHere(ctx, "a")
	require.NoError(t, err)
	assert.Empty(t, who)
}

func TestBackupComesBackEqual(t *testing.T) {
	s := open(t)
	require.NoError(
		t,
		s.AddUser(ctx,
			&User{ID: "1", Name: "ana", Display: "Ana", Role: job.Lead, PasswordHash: "x", Units: "both", Theme: "day", CreatedAt: day}),
	)
	require.NoError(t, s.ImportUnits(ctx, []match.Unit{unit("a", 25.4, 85), unit("b", 25.45, 85)}, nil))
	add(t, s, "a")
	add(t, s, "b")
	_, err := tell(s, "a", stroke("e1", "RR"),
		job.In{ID: "n", Kind: job.KindNote, At: day, Data: []byte(`{"text":"wet – 湿 <b>\u0000</b>"}`)})
	require.NoError(t, err)
	require.NoError(t, s.AddAudit(ctx, &Audit{At: day, Action: "sign_in", Detail: `{"x":"\\"}`}))
	var archive bytes.Buffer
	counts, err := s.Backup(ctx, &archive)
	require.NoError(t, err)
	assert.EqualValues(t, 2, counts.Rows["jobs"])
	assert.EqualValues(t, 4, counts.Rows["log"])
	fresh := open(t)
	back, err := fresh.Restore(ctx, bytes.NewReader(archive.Bytes()), int64(archive.Len()))
	require.NoError(t, err)
	assert.Equal(t, counts.Rows, back)
	for _, table := range backedUp {
		assert.Equal(t, rowsOf(t, s, table), rowsOf(t, fresh, table), table)
	}
	_, err = tell(fresh, "a", stroke("e2", "RR"))
	require.NoError(t, err, "work goes on")
	_, err = fresh.Restore(ctx, bytes.NewReader(archive.Bytes()), int64(archive.Len()))
	require.ErrorIs(t, err, ErrNotEmpty)
	cut := archive.Bytes()[:archive.Len()/2]
	_, err = open(t).Restore(ctx, bytes.NewReader(cut), int64(len(cut)))
	require.ErrorContains(t, err, "no backup")
}

func rowsOf(t *testing.T, s *Store, table string) []map[string]any {
	t.Helper()
	var rows []map[string]any
	require.NoError(t, s.db.Raw("SELECT * FROM "+table+" ORDER BY 1, 2").Scan(&rows).Error)
	return rows
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
	u := &User{
		ID:           "1",
		Name:         "ana",
		Display:      "Ana",
		Role:         job.Lead,
		PasswordHash: "x",
		Units:        "both",
		Theme:        "day",
		CreatedAt:    time.Now().UTC(),
	}
	require.NoError(t, s.AddUser(ctx, u))
	assert.ErrorIs(t, s.AddUser(ctx, &User{ID: "2", Name: "ana"}), ErrTaken)
	require.NoError(t, s.SetPreferences(ctx, "1", "us", "night", "es"))
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

// What was met on such vehicles before is looked for by the vehicle's words.
func TestJobsOfTheSameVehiclesWords(t *testing.T) {
	s := open(t)
	for i, vehicle := range []string{"Corrigan 4 ton pickup", "Marrow saloon", "Pickup Corrigan"} {
		b := someJob(t, fmt.Sprintf("alike-%d", i))
		b.Job.Intake.Vehicle = vehicle
		require.NoError(t, s.AddJob(ctx, b.Job, b.Events, nil))
	}
	got, err := s.Alike(ctx, "corrigan pickup")
	require.NoError(t, err)
	ids := []string{}
	for _, j := range got {
		ids = append(ids, j.ID)
	}
	assert.ElementsMatch(t, []string{"alike-0", "alike-2"}, ids)
	got, err = s.Alike(ctx, "")
	require.NoError(t, err)
	assert.Empty(t, got)
}

// A view is kept by every so many events and folded on from there: what is asked is the same as from the whole log at
// every one of them, and by far fewer bytes are written.
func TestAViewIsFoldedOn(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	kept := map[int64]bool{}
	for i := range 3*viewEvery + 5 {
		_, err := tell(s, "a", stroke(fmt.Sprint("e", i), "RR"))
		require.NoError(t, err)
		var v viewRow
		require.NoError(t, s.db.Where("job_id = 'a'").Take(&v).Error)
		kept[v.Head] = true
		raw, err := s.View(ctx, "a")
		require.NoError(t, err)
		all, err := s.Log(ctx, "a", 0, 0)
		require.NoError(t, err)
		j, err := job.ReadView(raw)
		require.NoError(t, err)
		is := job.Replay("a", j.CreatedAt, all)
		assert.Equal(t, is.Head, j.Head)
		assert.Equal(t, is.State.BleedStrokes, j.State.BleedStrokes)
	}
	assert.Len(t, kept, 4, "at its opening and three times since")
	found, err := s.Check(ctx)
	require.NoError(t, err)
	assert.Empty(t, found)
	// What reaches back is folded from the whole log, and kept at once.
	_, err = tell(s, "a", job.In{ID: "u", Kind: job.KindUndo, At: day, Data: []byte(`{"of":"e3"}`)})
	require.NoError(t, err)
	var v viewRow
	require.NoError(t, s.db.Where("job_id = 'a'").Take(&v).Error)
	assert.EqualValues(t, 3*viewEvery+7, v.Head)
}
