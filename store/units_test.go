package store

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

func unit(id string, bore, stud float64) match.Unit {
	return match.Unit{
		ID:            id,
		Maker:         "Ost_re",
		Number:        "N%" + id,
		BoreMM:        &bore,
		StudSpacingMM: &stud,
		Studs:         2,
		Ports:         []match.Port{},
		Contents:      []string{},
	}
}

func ids(units []match.Unit) (out []string) {
	for _, u := range units {
		out = append(out, u.ID)
	}
	return out
}

func TestSearchByMeasuredValues(t *testing.T) {
	s := open(t)
	require.NoError(t,
		s.ImportUnits(ctx, []match.Unit{unit("a", 25.4, 85), unit("b", 25.45, 85), unit("c", 25.6, 85), unit("d", 25.4, 92)}, nil))
	at := func(q Query) []string {
		got, err := s.Search(ctx, q)
		require.NoError(t, err)
		return ids(got)
	}
	bore, stud := 25.42, 85.0
	assert.Equal(t, []string{"a", "d", "b"}, at(Query{BoreMM: &bore, WithinMM: 0.1, Limit: 9}), "the nearest first")
	assert.Equal(t, []string{"a", "b"}, at(Query{BoreMM: &bore, StudSpacingMM: &stud, WithinMM: 0.1, Limit: 9}))
	exact := 25.5
	assert.Equal(t, []string{"c"}, at(Query{BoreMM: &exact, WithinMM: 0.1, Limit: 1, Text: "N%c"}),
		"the edge of a tenth counts, and % is a letter")
	assert.Empty(t, at(Query{Kind: match.VacuumBooster, Limit: 9}))
	assert.Len(t, at(Query{Text: "Ost_", Limit: 9}), 4)
	assert.Empty(t, at(Query{Text: "Ostx", Limit: 9}), "_ is a letter")
	require.NoError(t, s.SetShelf(ctx, "a", true))
	assert.NotContains(t, at(Query{BoreMM: &bore, WithinMM: 0.1, Limit: 9, NotShelf: true}), "a")
	shelf, err := s.Shelf(ctx)
	require.NoError(t, err)
	assert.Equal(t, []string{"a"}, ids(shelf))
	assert.ErrorIs(t, s.SetShelf(ctx, "zz", true), ErrNotFound)
}

func TestImportIsAllOrNothingAndSafeToRepeat(t *testing.T) {
	s := open(t)
	many := make([]match.Unit, 1300)
	for i := range many {
		many[i] = unit(time.Duration(i).String(), 20+float64(i)/100, 85)
	}
	var steps []int
	require.NoError(t, s.ImportUnits(ctx, many, func(done int) error { steps = append(steps, done); return nil }))
	assert.Equal(t, []int{500, 1000, 1300}, steps)
	require.NoError(t, s.SetShelf(ctx, many[3].ID, true))
	require.NoError(t, s.ImportUnits(ctx, many, nil))
	n, err := s.CountUnits(ctx)
	require.NoError(t, err)
	assert.EqualValues(t, 1300, n, "safe to repeat")
	shelf, err := s.Shelf(ctx)
	require.NoError(t, err)
	assert.Len(t, shelf, 1, "what stood on the shelf stays there")

	other := []match.Unit{unit("x1", 30, 85)}
	for i := range 800 {
		other = append(other, unit("y"+time.Duration(i).String(), 31, 85))
	}
	broken := errors.New("pulled the plug")
	err = s.ImportUnits(ctx, other, func(done int) error { return broken })
	assert.ErrorIs(t, err, broken)
	n, err = s.CountUnits(ctx)
	require.NoError(t, err)
	assert.EqualValues(t, 1300, n, "nothing is half-imported")
	all := 0
	require.NoError(t, s.Catalogue(ctx, func(u []match.Unit) error { all += len(u); return nil }))
	assert.Equal(t, 1300, all)
}

func TestImportsAreFollowed(t *testing.T) {
	s := open(t)
	now := time.Now().UTC()
	require.NoError(t, s.AddImport(ctx, &Import{ID: "i", Name: "f.csv", State: ImportRunning, CreatedAt: now, UpdatedAt: now}))
	require.NoError(t, s.UpdateImport(ctx, "i", map[string]any{"done": 5, "total": 9}))
	i, err := s.ImportByID(ctx, "i")
	require.NoError(t, err)
	assert.Equal(t, []int{5, 9}, []int{i.Done, i.Total})
	_, err = s.ImportByID(ctx, "j")
	assert.ErrorIs(t, err, ErrNotFound)
}

// Fifty thousand units: a search by three measured values.
func BenchmarkSearch50000(b *testing.B) {
	s := openTB(b)
	units := make([]match.Unit, 50_000)
	for i := range units {
		units[i] = unit(time.Duration(i).String(), 17+float64(i%1500)/100, 70+float64(i%29))
		p := 8 + float64(i%97)/10
		units[i].PocketMM = &p
	}
	require.NoError(b, s.ImportUnits(context.Background(), units, nil))
	bore, stud, pocket := 25.4, 85.0, 12.4
	for b.Loop() {
		if _, err := s.Search(ctx, Query{BoreMM: &bore, StudSpacingMM: &stud, PocketMM: &pocket, WithinMM: 0.1, Limit: 30}); err != nil {
			b.Fatal(err)
		}
	}
}

// The same with one measure alone and a wide net.
func BenchmarkSearch50000Wide(b *testing.B) {
	s := openTB(b)
	units := make([]match.Unit, 50_000)
	for i := range units {
		units[i] = unit(time.Duration(i).String(), 17+float64(i%1500)/100, 70+float64(i%29))
	}
	require.NoError(b, s.ImportUnits(context.Background(), units, nil))
	bore := 25.4
	for b.Loop() {
		if _, err := s.Search(ctx, Query{BoreMM: &bore, WithinMM: 5, Limit: 30}); err != nil {
			b.Fatal(err)
		}
	}
}
