package store

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/system"
)

// openFor opens a job of a vehicle at a moment.
func openFor(t *testing.T, s *Store, at time.Time, plate, vin string) string {
	t.Helper()
	sys, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	b, err := job.OpenBook(
		mara,
		at,
		job.Opening{
			ID:      uuid.NewString(),
			EventID: "o",
			Intake: job.Intake{
				Vehicle:   "Corrigan",
				Plate:     plate,
				VIN:       vin,
				Complaint: "sinks",
				System:    sys,
				Pattern:   "pickup-front-rear-vacuum",
			},
		},
	)
	require.NoError(t, err)
	require.NoError(t, s.AddJob(ctx, b.Job, b.Events, nil))
	return b.Job.ID
}

func vehicleID(t *testing.T, s *Store, jobID string) string {
	t.Helper()
	var id string
	require.NoError(t, s.db.Raw("SELECT COALESCE(vehicle_id, '') FROM jobs WHERE id = ?", jobID).Scan(&id).Error)
	return id
}

// release marks a job as released in its facts, as the gate's passing would.
func release(t *testing.T, s *Store, jobID string, at time.Time) {
	t.Helper()
	alter(t, s, jobID, func(f *job.Facts) { f.ReleasedAt, f.First = &at, true })
	require.NoError(t, s.db.Exec("UPDATE job_facts SET released_at = ?, first_time = 1 WHERE job_id = ?", at, jobID).Error)
}

// alter changes a job's facts as its work would, and counts it anew.
func alter(t *testing.T, s *Store, jobID string, change func(f *job.Facts)) {
	t.Helper()
	var row factsRow
	require.NoError(t, s.db.Where("job_id = ?", jobID).Take(&row).Error)
	var f job.Facts
	require.NoError(t, json.Unmarshal([]byte(row.Facts), &f))
	change(&f)
	raw, err := encode(f)
	require.NoError(t, err)
	require.NoError(t, s.db.Exec("UPDATE job_facts SET facts = ? WHERE job_id = ?", raw, jobID).Error)
	require.NoError(t, s.inTransaction(ctx, func(tx *gorm.DB) error { return tallyAgain(tx, jobID) }))
}

// The same plate is the same vehicle however it is written; two entries are joined and taken apart again.
func TestAPlateMakesAVehicle(t *testing.T) {
	s := open(t)
	a, b := openFor(t, s, day, "8TK 2204", ""), openFor(t, s, day.Add(time.Hour), "8tk-2204", "")
	c, d := openFor(t, s, day, "ZZ 1", ""), openFor(t, s, day, "", "")
	assert.Equal(t, vehicleID(t, s, a), vehicleID(t, s, b))
	assert.NotEqual(t, vehicleID(t, s, a), vehicleID(t, s, c))
	assert.Empty(t, vehicleID(t, s, d), "neither plate nor VIN: no vehicle")
	v, jobs, err := s.Vehicle(ctx, vehicleID(t, s, a))
	require.NoError(t, err)
	assert.Equal(t, "8TK 2204", v.Plate)
	assert.Len(t, jobs, 2)
	found, err := s.FindVehicles(ctx, "8tk22", 10)
	require.NoError(t, err)
	require.Len(t, found, 1)
	one, two := vehicleID(t, s, a), vehicleID(t, s, c)
	require.NoError(t, s.JoinVehicles(ctx, two, one, nil))
	assert.Equal(t, one, vehicleID(t, s, c))
	e := openFor(t, s, day.Add(2*time.Hour), "ZZ1", "")
	assert.Equal(t, one, vehicleID(t, s, e), "a new job of the joined entry is the other's")
	require.ErrorIs(t, s.JoinVehicles(ctx, two, one, nil), ErrNotFound, "not twice")
	require.NoError(t, s.PartVehicle(ctx, two, nil))
	assert.Equal(t, two, vehicleID(t, s, c))
	assert.Equal(t, two, vehicleID(t, s, e))
	assert.Equal(t, one, vehicleID(t, s, a))
	// A VIN finds it under another plate.
	f := openFor(t, s, day, "NEW 1", "1GEM0000000000001")
	g := openFor(t, s, day.Add(time.Hour), "NEW 2", "1gem0000000000001")
	assert.Equal(t, vehicleID(t, s, f), vehicleID(t, s, g))
}

func TestComebacksAndFiguresRestOnEnoughJobs(t *testing.T) {
	s := open(t)
	for i := range 6 {
		id := openFor(t, s, day.AddDate(0, 0, i), string(rune('A'+i))+" 100", "")
		release(t, s, id, day.AddDate(0, 0, i).Add(time.Hour))
	}
	v, err := s.Statistics(ctx, day.AddDate(-1, 0, 0), 90)
	require.NoError(t, err)
	require.NotNil(t, v.Comebacks)
	assert.Zero(t, v.Comebacks.Value)
	assert.Equal(t, 6, v.Comebacks.Jobs)
	assert.Equal(t, 1.0, v.RightFirst.Value)
	require.Len(t, v.Course, 1)
	assert.Equal(t, Month{Month: day.Format(monthForm), Jobs: 6, RightFirst: 1}, v.Course[0], "no minutes where no work was told")
	assert.Nil(t, v.Named, "nobody said what it was: nothing is said")
	openFor(t, s, day.AddDate(0, 0, 30), "A 100", "")
	openFor(t, s, day.AddDate(0, 0, 200), "B 100", "")
	v, err = s.Statistics(ctx, day.AddDate(-1, 0, 0), 90)
	require.NoError(t, err)
	assert.InDelta(t, 1.0/6, v.Comebacks.Value, 1e-12, "one of six within ninety days")
	assert.InDelta(t, 1.0/6, v.Course[0].Comebacks, 1e-12)
	assert.Equal(t, []Month{{Month: "2026-01"}, {Month: "2026-02"}, {Month: "2026-03"}}, upTo(upTo(nil, "2026-01"), "2026-03"),
		"a month without a job is seen")
	v, err = s.Statistics(ctx, day.AddDate(1, 0, 0), 90)
	require.NoError(t, err)
	assert.Nil(t, v.Comebacks, "below five nothing is said")
}

// The sums of days are what a count over all jobs gives, however the jobs changed; a figure opens to its jobs.
func TestSumsOfDaysHoldAgainstACountOverAllJobs(t *testing.T) {
	s := open(t)
	r := rand.New(rand.NewPCG(5, 5))
	ids := []string{}
	for i := range 40 {
		ids = append(ids, openFor(t, s, day.AddDate(0, 0, i), fmt.Sprintf("P %d", i%23), ""))
		for range 3 {
			alter(t, s, ids[r.IntN(len(ids))], func(f *job.Facts) {
				at := day.AddDate(0, 0, r.IntN(60)).Add(time.Hour)
				f.ReleasedAt, f.First = &at, r.IntN(2) == 0
				if r.IntN(4) == 0 {
					f.ReleasedAt = nil
				}
				f.UnitMaker, f.Was = []string{"Valkenried", "Orrest", ""}[r.IntN(3)], []string{"fluid.wet", ""}[r.IntN(2)]
				f.Minutes = map[string]float64{"bleed": float64(r.IntN(90)), "verify": 10}
				f.Spoke, f.Lied = []string{"pedal.feel"}, nil
				if r.IntN(3) == 0 {
					f.Spoke, f.Lied = nil, []string{"pedal.feel"}
				}
			})
		}
	}
	type sum struct {
		n     int
		total float64
	}
	want := map[job.TallyKind]map[string]sum{}
	var rows []factsRow
	require.NoError(t, s.db.Find(&rows).Error)
	for _, row := range rows {
		var f job.Facts
		require.NoError(t, json.Unmarshal([]byte(row.Facts), &f))
		for _, x := range f.Tallies(row.CameBack) {
			if want[x.Kind] == nil {
				want[x.Kind] = map[string]sum{}
			}
			w := want[x.Kind][x.Of]
			want[x.Kind][x.Of] = sum{w.n + 1, w.total + x.Value}
		}
	}
	v, err := s.Statistics(ctx, day.AddDate(-1, 0, 0), 90)
	require.NoError(t, err)
	assert.Equal(t, want[job.TallyReleased][""].n, v.Released)
	assert.InDelta(t, want[job.TallyReleased][""].total/float64(v.Released), v.RightFirst.Value, 1e-9)
	seen := 0
	for _, k := range []job.TallyKind{job.TallyMaker, job.TallyStation, job.TallySign, job.TallyPattern} {
		for _, f := range v.Kinds[k] {
			w := want[k][f.Of]
			assert.Equal(t, w.n, f.Jobs, "%s %s", k, f.Of)
			assert.InDelta(t, w.total/float64(w.n), f.Value, 1e-9, "%s %s", k, f.Of)
			cards, err := s.TalliedJobs(ctx, TallyQuery{Kind: k, Of: f.Of, Since: day.AddDate(-1, 0, 0), Limit: 100})
			require.NoError(t, err)
			assert.Len(t, cards, f.Jobs, "%s %s opens to its jobs", k, f.Of)
			seen++
		}
	}
	assert.GreaterOrEqual(t, seen, 5)
}

// Jobs from before they were counted are counted once.
func TestOldJobsAreCounted(t *testing.T) {
	s := open(t)
	for i := range 6 {
		id := openFor(t, s, day.AddDate(0, 0, i), string(rune('A'+i))+" 100", "")
		release(t, s, id, day.AddDate(0, 0, i).Add(time.Hour))
	}
	for _, q := range []string{"DELETE FROM job_tallies", "DELETE FROM tally_days", "UPDATE job_facts SET tallied = 0"} {
		require.NoError(t, s.db.Exec(q).Error)
	}
	for range 2 {
		require.NoError(t, s.FillFacts(ctx))
		v, err := s.Statistics(ctx, day.AddDate(-1, 0, 0), 90)
		require.NoError(t, err)
		assert.Equal(t, 6, v.Released)
	}
}

// Found: a restored shop had no figures: 406 released jobs came back as none.
func TestARestoreBringsTheFiguresBack(t *testing.T) {
	s := open(t)
	for i := range 6 {
		id := openFor(t, s, day.AddDate(0, 0, i), string(rune('A'+i))+" 100", "")
		release(t, s, id, day.AddDate(0, 0, i).Add(time.Hour))
	}
	want, err := s.Statistics(ctx, day.AddDate(-1, 0, 0), 90)
	require.NoError(t, err)
	require.Equal(t, 6, want.Released)
	_, err = s.AddReadToken(ctx, "calendar", "a secret", "piet")
	require.NoError(t, err)
	var archive bytes.Buffer
	_, err = s.Backup(ctx, &archive)
	require.NoError(t, err)
	fresh := open(t)
	_, err = fresh.Restore(ctx, bytes.NewReader(archive.Bytes()), int64(archive.Len()))
	require.NoError(t, err)
	got, err := fresh.Statistics(ctx, day.AddDate(-1, 0, 0), 90)
	require.NoError(t, err)
	assert.Equal(t, want, got)
	assert.Equal(t, rowsOf(t, s, "tally_days"), rowsOf(t, fresh, "tally_days"), "counted anew, to the same")
	assert.Equal(t, rowsOf(t, s, "read_tokens"), rowsOf(t, fresh, "read_tokens"))
}

func TestSettingsAndExperience(t *testing.T) {
	s := open(t)
	v, err := s.Settings(ctx)
	require.NoError(t, err)
	assert.Equal(t, job.DefaultSettings(), v)
	v.Name, v.Experience, v.ReleaseBy = "Stonefold Brakes", true, job.Lead
	require.NoError(t, s.PutSettings(ctx, v, nil))
	require.NoError(
		t,
		s.PutBrought(ctx,
			map[string]diagnose.Experience{"pickup-front-rear-vacuum": {Jobs: 40, Counts: map[string]int{"mc.rear_seal_leak": 30}}},
			nil),
	)
	id := openFor(t, s, day, "X 1", "")
	j, err := s.Job(ctx, id)
	require.NoError(t, err)
	require.NotNil(t, j.Experience)
	assert.Equal(t, 40, j.Experience.Jobs)
	assert.Equal(t, "Stonefold Brakes", j.Shop.Name)
	_, err = j.Release(job.Actor{ID: "u", Name: "Mara", Role: job.Technician}, day, "r")
	assert.ErrorIs(t, err, job.ErrRole{Command: job.ReleaseJob}, "this shop's lead releases")
	require.NoError(t, s.db.Exec("UPDATE job_facts SET was = 'fluid.wet' WHERE job_id = ?", id).Error)
	x, err := s.Experience(ctx)
	require.NoError(t, err)
	assert.Equal(t, 41, x["pickup-front-rear-vacuum"].Jobs)
	brought, err := s.Brought(ctx)
	require.NoError(t, err)
	assert.Equal(t, 40, brought["pickup-front-rear-vacuum"].Jobs, "what was brought stays as it was")
	// What signs showed where it was told what it was, by the job's own counts.
	was := "fluid.wet"
	row := factsRow{JobID: id, OpenedAt: day}
	f := job.Facts{Pattern: "pickup-front-rear-vacuum", ReleasedAt: &day, Was: was, Seen: map[string]string{"pedal.soft_when_hot": "yes"}}
	require.NoError(t, s.db.Transaction(func(tx *gorm.DB) error { return retally(tx, &row, &f) }))
	x, err = s.Experience(ctx)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 1}, x["pickup-front-rear-vacuum"].Signs["pedal.soft_when_hot"][was])
}

func TestFactsAreFilledIn(t *testing.T) {
	s := open(t)
	id := openFor(t, s, day, "Q 1", "")
	require.NoError(t, s.db.Exec("DELETE FROM job_facts").Error)
	require.NoError(t, s.FillFacts(ctx))
	var n int64
	require.NoError(t, s.db.Table("job_facts").Where("job_id = ?", id).Count(&n).Error)
	assert.EqualValues(t, 1, n)
}

// A job is found by the number of a part, as it is written and as one word.
func TestAJobIsFoundByAPartNumber(t *testing.T) {
	s := open(t)
	sys, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	choices := job.DefaultChoices(sys)
	choices.Unit = &match.Unit{ID: "u", Maker: "Valkenried", Number: "VK 10-63"}
	b, err := job.OpenBook(
		mara,
		day,
		job.Opening{
			ID:      uuid.NewString(),
			EventID: "o",
			Intake:  job.Intake{Vehicle: "Corrigan", Plate: "P 1", System: sys},
			Choices: &choices,
		},
	)
	require.NoError(t, err)
	require.NoError(t, s.AddJob(ctx, b.Job, b.Events, nil))
	openFor(t, s, day, "P 2", "")
	for _, text := range []string{"vk1063", "valkenried", "10-63"} {
		page, err := s.Bay(ctx, BayQuery{Text: text, Limit: 10})
		require.NoError(t, err)
		assert.Len(t, page.Cards, 1, text)
	}
}

// The bottles of a shop are one table: what was opened when, over all its jobs.
func TestBottlesAcrossJobs(t *testing.T) {
	s := open(t)
	for i, opened := range []string{"2026-11-20", "2026-11-20", "2026-10-01", ""} {
		id := openFor(t, s, day.AddDate(0, 0, i), string(rune('A'+i))+" 200", "")
		require.NoError(
			t,
			s.db.Exec(
				"UPDATE job_views SET view = JSON_SET(view, '$.choices.bottle.class', 'DOT 4', '$.choices.bottle.opened_at', ?) WHERE job_id = ?",
				opened,
				id,
			).Error,
		)
	}
	head, rows, err := s.Table(ctx, "fluids", 10)
	require.NoError(t, err)
	assert.Equal(t, []string{"class", "opened_at", "water_percent", "jobs"}, head[:4])
	require.Len(t, rows, 2, "a bottle without a date is no bottle")
	assert.Equal(t, []string{"DOT 4", "2026-11-20", "", "2"}, rows[0][:4])
	assert.Equal(t, []string{"DOT 4", "2026-10-01", "", "1"}, rows[1][:4])
	require.NoError(t, s.db.Exec("UPDATE jobs SET updated_at = '2026-11-24'").Error)
	open, err := s.Bottles(ctx, time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC), 10)
	require.NoError(t, err)
	assert.Equal(t, []job.Bottle{{Class: "DOT 4", OpenedAt: "2026-11-20"}}, open, "what was opened too long ago is not offered")
}
