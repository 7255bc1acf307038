package store

import (
	"context"
	"encoding/json"
	"fmt"

	"gorm.io/gorm"

	"geminate/brake/job"
)

// Difference is a place where what is kept beside the log is not what the log and the jobs come to.
type Difference struct {
	What string // heads, views, counts, figures, pictures
	Of   string // the job, or the count
	Kept string
	Is   string
}

// counted are the counts that can be made anew: what is kept, and what it is when it is counted.
var counted = []struct{ what, kept, is string }{
	{
		"heads",
		"SELECT id of_what, CAST(head AS CHAR) v FROM jobs",
		"SELECT job_id of_what, CAST(MAX(n) AS CHAR) v FROM log GROUP BY job_id",
	},
	{
		"counts",
		"SELECT CONCAT(standing, ' ', station) of_what, CAST(n AS CHAR) v FROM job_counts WHERE n <> 0",
		"SELECT CONCAT(standing, ' ', station) of_what, CAST(COUNT(*) AS CHAR) v FROM jobs GROUP BY standing, station",
	},
	{
		"figures",
		"SELECT CONCAT(day, ' ', kind, ' ', of_what) of_what, CONCAT(n, ' ', ROUND(total, 3)) v FROM tally_days WHERE n <> 0",
		"SELECT CONCAT(day, ' ', kind, ' ', of_what) of_what, CONCAT(COUNT(*), ' ', ROUND(SUM(value), 3)) v FROM job_tallies GROUP BY day, kind, of_what",
	},
}

// Check holds everything that is kept beside the logs against a full count, in one consistent look: heads, counts,
// figures, and each job's view against its log folded anew.
func (s *Store) Check(ctx context.Context) (out []Difference, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, c := range counted {
			kept, err := pairs(tx, c.kept)
			if err != nil {
				return err
			}
			is, err := pairs(tx, c.is)
			if err != nil {
				return err
			}
			for of, v := range is {
				if kept[of] != v {
					out = append(out, Difference{c.what, of, kept[of], v})
				}
			}
			for of, v := range kept {
				if _, there := is[of]; !there {
					out = append(out, Difference{c.what, of, v, ""})
				}
			}
		}
		return checkViews(tx, func(id string) { out = append(out, Difference{What: "views", Of: id}) })
	})
	if err != nil {
		return nil, err
	}
	return out, s.checkPictures(ctx, func(d Difference) { out = append(out, d) })
}

func pairs(tx *gorm.DB, q string) (map[string]string, error) {
	var rows []struct{ OfWhat, V string }
	err := tx.Raw(q).Scan(&rows).Error
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.OfWhat] = r.V
	}
	return out, err
}

// checkViews tells of every job whose kept state is not what its log comes to. Views an older program kept are folded
// anew when they are asked for, and are no difference.
func checkViews(tx *gorm.DB, tell func(id string)) error {
	var ids []string
	if err := tx.Raw("SELECT job_id FROM job_views WHERE fold = ?", job.FoldVersion).Scan(&ids).Error; err != nil {
		return err
	}
	for _, id := range ids {
		var row jobRow
		if err := tx.Session(&gorm.Session{NewDB: true}).Select("id", "created_at").Where("id = ?", id).Take(&row).Error; err != nil {
			return err
		}
		var v viewRow
		if err := tx.Session(&gorm.Session{NewDB: true}).Where("job_id = ?", id).Take(&v).Error; err != nil {
			return err
		}
		kept, err := job.ReadView([]byte(v.View))
		if err != nil {
			return fmt.Errorf("job %s: %w", id, err)
		}
		all, err := (&jobLog{tx: tx.Session(&gorm.Session{NewDB: true}), id: id}).All()
		if err != nil {
			return err
		}
		if int64(len(all)) < v.Head { // it is of more than there is
			tell(id)
			continue
		}
		is := job.Replay(id, row.CreatedAt, all[:v.Head])
		a, errA := json.Marshal([]any{kept.Intake, kept.Choices, kept.State, kept.Head})
		b, errB := json.Marshal([]any{is.Intake, is.Choices, is.State, is.Head})
		if errA != nil || errB != nil || string(a) != string(b) {
			tell(id)
		}
	}
	return nil
}

// Recount makes everything anew that can be: counts, figures, and the views that are named. The logs are left alone.
func (s *Store) Recount(ctx context.Context, found []Difference) error {
	for _, d := range found {
		if d.What == picturesInLog {
			if err := s.takeApart(ctx, d.Of); err != nil {
				return err
			}
		}
		if d.What != "views" && d.What != "heads" {
			continue
		}
		if err := s.db.WithContext(ctx).Exec("DELETE FROM job_views WHERE job_id = ?", d.Of).Error; err != nil {
			return err
		}
		if _, err := s.refold(ctx, d.Of); err != nil {
			return err
		}
	}
	err := s.inTransaction(ctx, func(tx *gorm.DB) error {
		for _, q := range []string{
			"DELETE FROM job_counts", "INSERT INTO job_counts (standing, station, n) SELECT standing, station, COUNT(*) FROM jobs GROUP BY standing, station",
			"DELETE FROM tally_days", "INSERT INTO tally_days (day, kind, of_what, n, total) SELECT day, kind, of_what, COUNT(*), SUM(value) FROM job_tallies GROUP BY day, kind, of_what",
		} {
			if err := tx.Exec(q).Error; err != nil {
				return err
			}
		}
		return nil
	})
	return err
}

// Checksums are those of every table that is backed up, by the database: equal where every row is.
func (s *Store) Checksums(ctx context.Context) (map[string]int64, error) {
	out := map[string]int64{}
	for _, table := range append([]string{"job_tallies", "tally_days"}, backedUp...) {
		var row struct {
			Table    string
			Checksum *int64
		}
		if err := s.db.WithContext(ctx).Raw("CHECKSUM TABLE " + table + " EXTENDED").Scan(&row).Error; err != nil {
			return nil, fmt.Errorf("store: checksum of %s: %w", table, err)
		}
		if row.Checksum != nil {
			out[table] = *row.Checksum
		}
	}
	return out, nil
}
