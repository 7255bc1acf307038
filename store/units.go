package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/match"
)

type unitRow struct {
	ID                string `gorm:"primaryKey"`
	Place             int
	Unit              string
	Shelf             bool
	Kind              string
	Maker             string
	Number            string
	BoreMM            *float64 `gorm:"column:bore_mm"`
	StudSpacingMM     *float64 `gorm:"column:stud_spacing_mm"`
	PocketMM          *float64 `gorm:"column:pocket_mm"`
	ShellMM           *float64 `gorm:"column:shell_mm"`
	FirewallSpacingMM *float64 `gorm:"column:firewall_spacing_mm"`
}

func (unitRow) TableName() string { return "units" }

func rowOf(u *match.Unit, place int, shelf bool) (unitRow, error) {
	data, err := encode(u)
	if err != nil {
		return unitRow{}, fmt.Errorf("store: unit %s: %w", u.ID, err)
	}
	r := unitRow{
		ID:            u.ID,
		Place:         place,
		Unit:          data,
		Shelf:         shelf,
		Kind:          u.KindOf(),
		Maker:         u.Maker,
		Number:        u.Number,
		BoreMM:        u.BoreMM,
		StudSpacingMM: u.StudSpacingMM,
		PocketMM:      u.PocketMM,
	}
	if b := u.Booster; b != nil {
		r.ShellMM, r.FirewallSpacingMM = b.ShellMM, b.FirewallSpacingMM
	}
	return r, nil
}

func unitsOf(rows []unitRow) ([]match.Unit, error) {
	out := make([]match.Unit, len(rows))
	for i, r := range rows {
		if err := json.Unmarshal([]byte(r.Unit), &out[i]); err != nil {
			return nil, fmt.Errorf("store: unit %s: %w", r.ID, err)
		}
	}
	return out, nil
}

// shelfLimit is as many as stand on a shop's own shelf; the rest is the catalogue.
const shelfLimit = 200

// Shelf loads the units on the shop's own shelf.
func (s *Store) Shelf(ctx context.Context) ([]match.Unit, error) {
	var rows []unitRow
	if err := s.db.WithContext(ctx).Where("shelf").Order("place, id").Limit(shelfLimit).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("store: shelf: %w", err)
	}
	return unitsOf(rows)
}

// PutUnits adds or replaces units on the shelf.
func (s *Store) PutUnits(ctx context.Context, units []match.Unit) error {
	return putUnits(s.db.WithContext(ctx), units, true, nil)
}

// SetShelf takes a unit of the catalogue onto the shelf, or off it.
func (s *Store) SetShelf(ctx context.Context, id string, on bool) error {
	var n int64
	if err := s.db.WithContext(ctx).Model(&unitRow{}).Where("id = ?", id).Count(&n).Error; err != nil {
		return fmt.Errorf("store: unit %s: %w", id, err)
	}
	if n == 0 {
		return ErrNotFound
	}
	return s.db.WithContext(ctx).Model(&unitRow{}).Where("id = ?", id).Update("shelf", on).Error
}

// unitColumns are replaced where a unit is there already; whether it is on the shelf stays.
var unitColumns = []string{"unit", "kind", "maker", "number", "bore_mm", "stud_spacing_mm", "pocket_mm", "shell_mm", "firewall_spacing_mm"}

const unitBatch = 500

func putUnits(tx *gorm.DB, units []match.Unit, shelf bool, progress func(done int) error) error {
	for at := 0; at < len(units); at += unitBatch {
		chunk := units[at:min(len(units), at+unitBatch)]
		rows := make([]unitRow, len(chunk))
		for i := range chunk {
			r, err := rowOf(&chunk[i], at+i, shelf)
			if err != nil {
				return err
			}
			rows[i] = r
		}
		if err := tx.Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns(unitColumns)}).Create(&rows).Error; err != nil {
			return fmt.Errorf("store: units: %w", err)
		}
		if progress != nil {
			if err := progress(at + len(chunk)); err != nil {
				return err
			}
		}
	}
	return nil
}

// Query is a search by measured values: each figure given has to be met within WithinMM.
type Query struct {
	Kind              string
	BoreMM            *float64
	StudSpacingMM     *float64
	PocketMM          *float64
	ShellMM           *float64
	FirewallSpacingMM *float64
	WithinMM          float64
	Text              string // of the maker or the start of the number
	Limit             int
	NotShelf          bool
}

// Search answers from the whole catalogue, the nearest first.
func (s *Store) Search(ctx context.Context, q Query) ([]match.Unit, error) {
	kind := q.Kind
	if kind == "" {
		kind = match.MasterCylinder
	}
	db := s.db.WithContext(ctx).Where("kind = ?", kind)
	var order []string
	var args []any
	for _, f := range []struct {
		column string
		value  *float64
	}{{"bore_mm", q.BoreMM}, {"stud_spacing_mm", q.StudSpacingMM}, {"pocket_mm", q.PocketMM}, {"shell_mm", q.ShellMM}, {"firewall_spacing_mm", q.FirewallSpacingMM}} {
		if f.value == nil {
			continue
		}
		db = db.Where(f.column+" BETWEEN ? AND ?", *f.value-q.WithinMM-1e-9, *f.value+q.WithinMM+1e-9)
		order = append(order, "ABS("+f.column+" - ?)")
		args = append(args, *f.value)
	}
	if q.NotShelf {
		db = db.Where("NOT shelf")
	}
	if t := strings.TrimSpace(q.Text); t != "" {
		like := strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(t)
		db = db.Where("(number LIKE ? OR maker LIKE ?)", like+"%", like+"%")
	}
	by := "id"
	if len(order) > 0 {
		by = strings.Join(order, " + ") + ", " + by
	}
	// First the ids alone, which the index holds, then the documents of the few that are shown: sorting
	// thousands of documents takes a fifth of a second.
	var ids []string
	if err := db.Model(&unitRow{}).
		Order(clause.OrderBy{Expression: clause.Expr{SQL: by, Vars: args}}).
		Limit(min(200, max(1, q.Limit))).
		Pluck("id", &ids).
		Error; err != nil {
		return nil, fmt.Errorf("store: search: %w", err)
	}
	if len(ids) == 0 {
		return []match.Unit{}, nil
	}
	var rows []unitRow
	if err := s.db.WithContext(ctx).Where("id IN ?", ids).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("store: search: %w", err)
	}
	slices.SortFunc(rows, func(a, b unitRow) int { return slices.Index(ids, a.ID) - slices.Index(ids, b.ID) })
	return unitsOf(rows)
}

// Catalogue gives all units in batches, for the export.
func (s *Store) Catalogue(ctx context.Context, each func([]match.Unit) error) error {
	last := ""
	for {
		var rows []unitRow
		if err := s.db.WithContext(ctx).Where("id > ?", last).Order("id").Limit(2000).Find(&rows).Error; err != nil {
			return fmt.Errorf("store: catalogue: %w", err)
		}
		if len(rows) == 0 {
			return nil
		}
		last = rows[len(rows)-1].ID
		units, err := unitsOf(rows)
		if err != nil {
			return err
		}
		if err := each(units); err != nil {
			return err
		}
	}
}

// CountUnits is how many units the catalogue holds.
func (s *Store) CountUnits(ctx context.Context) (n int64, err error) {
	err = s.db.WithContext(ctx).Model(&unitRow{}).Count(&n).Error
	return n, err
}

// Import states.
const (
	ImportRunning = "running"
	ImportDone    = "done"
	ImportRefused = "refused" // bad rows: nothing was taken
	ImportFailed  = "failed"  // the database failed: nothing was taken
)

// Import is one file on its way into the catalogue.
type Import struct {
	ID        string `gorm:"primaryKey"`
	Name      string
	State     string
	Done      int
	Total     int
	Problems  string
	ByName    string
	CreatedAt time.Time
	UpdatedAt time.Time
}

func (Import) TableName() string { return "imports" }

// AddImport takes down that an import has begun.
func (s *Store) AddImport(ctx context.Context, i *Import) error {
	return s.write(ctx, func(db *gorm.DB) error { return db.Create(i).Error })
}

// ImportByID says how far an import is.
func (s *Store) ImportByID(ctx context.Context, id string) (*Import, error) {
	var i Import
	err := s.db.WithContext(ctx).First(&i, "id = ?", id).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, ErrNotFound
	}
	return &i, err
}

// UpdateImport stores how far an import is.
func (s *Store) UpdateImport(ctx context.Context, id string, change map[string]any) error {
	change["updated_at"] = time.Now().UTC()
	return s.write(ctx, func(db *gorm.DB) error { return db.Model(&Import{}).Where("id = ?", id).Updates(change).Error })
}

// ImportUnits puts all units into the catalogue or none: one transaction. progress is told after each batch,
// outside it, so that others see how far it is. Repeating it changes nothing.
func (s *Store) ImportUnits(ctx context.Context, units []match.Unit, progress func(done int) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return putUnits(tx, units, false, progress) })
}
