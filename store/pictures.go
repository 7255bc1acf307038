package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/job"
	"geminate/internal/blobs"
)

// Pictures lie apart from the log, by the sum of their bytes. They are taken into a table with the event that tells of
// them, so that what is acknowledged is there; where a store outside is named they are brought to it afterwards, and
// leave the table when they have arrived. A store that does not answer holds up no telling and loses nothing.

type pictureRow struct {
	Sum    job.PictureSum `gorm:"primaryKey"`
	JPEG   []byte         `gorm:"column:jpeg"`
	KeptAt time.Time
}

func (pictureRow) TableName() string { return "pictures" }

// pictureUse is an event that tells of a picture.
type pictureUse struct {
	JobID string `gorm:"primaryKey"`
	N     int64  `gorm:"primaryKey;autoIncrement:false"`
	Sum   job.PictureSum
}

func (pictureUse) TableName() string { return "job_pictures" }

// ErrPictureLost is a picture the log tells of that is nowhere; ErrPictureGone one that was taken out with its owner's
// name.
var (
	ErrPictureLost = errors.New("store: this picture is lost")
	ErrPictureGone = errors.New("store: this picture was taken out with its owner's name")
)

// KeepPictures names the store outside to which pictures are brought; nil keeps them in the database.
func (s *Store) KeepPictures(b blobs.Bucket) { s.at.pictures = b }

// BringsPictures says whether there is a store outside.
func (s *Store) BringsPictures() bool { return s.at.pictures != nil }

// pictureName is a picture's in the store outside: shops do not share theirs.
func (s *Store) pictureName(sum job.PictureSum) string { return s.at.cfg.DBName + "/" + string(sum) }

// apart gives an event's body as the log has it, and keeps its picture, where it has one, apart in the same
// transaction.
func apart(tx *gorm.DB, jobID string, e job.Event) (job.Body, error) {
	p, is := e.Body.(*job.Photographed)
	if _, older := tx.Get(withoutFacts); !is || older { // an older schema's upgrade has no table for it yet
		return e.Body, nil
	}
	kept, jpeg := p.Apart()
	if jpeg == nil {
		return kept, nil
	}
	return kept, keepPicture(tx, pictureUse{jobID, e.Seq, kept.Sum}, jpeg)
}

func keepPicture(tx *gorm.DB, use pictureUse, jpeg []byte) error {
	once := clause.OnConflict{DoNothing: true}
	if err := tx.Clauses(once).Create(&pictureRow{use.Sum, jpeg, time.Now().UTC()}).Error; err != nil {
		return fmt.Errorf("store: picture: %w", err)
	}
	if err := tx.Clauses(once).Create(&use).Error; err != nil {
		return fmt.Errorf("store: picture: %w", err)
	}
	return nil
}

// Picture gives a photo's bytes.
func (s *Store) Picture(ctx context.Context, p *job.Photographed) ([]byte, error) {
	switch {
	case p.Gone:
		return nil, ErrPictureGone
	case len(p.JPEG) > 0: // in a log from before
		return p.JPEG, nil
	case p.Sum == "":
		return nil, ErrPictureLost
	}
	var row pictureRow
	err := s.db.WithContext(ctx).Where("sum = ?", p.Sum).Take(&row).Error
	if !errors.Is(err, gorm.ErrRecordNotFound) {
		return row.JPEG, err
	}
	if s.at.pictures == nil {
		return nil, ErrPictureLost
	}
	jpeg, err := s.at.pictures.Get(ctx, s.pictureName(p.Sum))
	switch {
	case errors.Is(err, blobs.ErrNotFound), err == nil && job.SumOf(jpeg) != p.Sum: // gone there, or not what was brought
		return nil, ErrPictureLost
	case err != nil:
		return nil, fmt.Errorf("store: the store for photos: %w", err)
	}
	return jpeg, nil
}

// WithPictures puts the pictures back into events that go out as a file. One that is lost stays out: its sum tells of
// it.
func (s *Store) WithPictures(ctx context.Context, events []job.Event) ([]job.Event, error) {
	for i := range events {
		p, is := events[i].Body.(*job.Photographed)
		if !is {
			continue
		}
		jpeg, err := s.Picture(ctx, p)
		switch {
		case errors.Is(err, ErrPictureLost), errors.Is(err, ErrPictureGone):
			continue
		case err != nil:
			return nil, err
		}
		whole := *p
		whole.JPEG = jpeg
		events[i].Body = &whole
	}
	return events, nil
}

// Photos gives a job's photos with their pictures, in order; nil for one that is lost or was taken out.
func (s *Store) Photos(ctx context.Context, j *job.Job) ([][]byte, error) {
	ids := make([]string, len(j.State.Photos))
	for i, p := range j.State.Photos {
		ids[i] = p.ID
	}
	if len(ids) == 0 {
		return nil, nil
	}
	found, err := s.Events(ctx, j.ID, ids)
	if err != nil {
		return nil, err
	}
	out := make([][]byte, len(ids))
	for i, id := range ids {
		p, ok := found[id].Body.(*job.Photographed)
		if !ok {
			continue
		}
		out[i], err = s.Picture(ctx, p)
		if err != nil && !errors.Is(err, ErrPictureLost) && !errors.Is(err, ErrPictureGone) {
			return nil, err
		}
	}
	return out, nil
}

// bringAtOnce is how many pictures are brought to the store outside between two looks.
const bringAtOnce = 8

// BringPictures brings what lies in the table to the store outside, some at a time, and says how many arrived. A
// picture is held while it is brought: whoever takes it out waits, and takes it out there too.
func (s *Store) BringPictures(ctx context.Context) (brought int, err error) {
	if s.at.pictures == nil {
		return 0, nil
	}
	var sums []job.PictureSum
	if err := s.db.WithContext(ctx).Model(&pictureRow{}).Order("kept_at").Limit(bringAtOnce).Pluck("sum", &sums).Error; err != nil {
		return 0, fmt.Errorf("store: pictures: %w", err)
	}
	for _, sum := range sums {
		arrived, err := s.bring(ctx, sum)
		if err != nil {
			return brought, err
		}
		if arrived {
			brought++
		}
	}
	return brought, nil
}

func (s *Store) bring(ctx context.Context, sum job.PictureSum) (arrived bool, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var row pictureRow
		err := tx.Clauses(clause.Locking{Strength: "UPDATE", Options: "SKIP LOCKED"}).Where("sum = ?", sum).Take(&row).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return nil // another server has it in hand
		}
		if err != nil {
			return err
		}
		name := s.pictureName(sum)
		if err := s.at.pictures.Put(ctx, name, row.JPEG); err != nil {
			return fmt.Errorf("store: the store for photos: %w", err)
		}
		// Read back before the only other one goes.
		back, err := s.at.pictures.Get(ctx, name)
		if err != nil || job.SumOf(back) != sum {
			return fmt.Errorf("store: the store for photos does not give back what it was given: %w", err)
		}
		arrived = true
		return tx.Delete(&row).Error
	})
	return arrived && err == nil, err
}

// dropPictures takes a job's pictures out, but for those another job tells of. Those a store outside may have are named
// for dropThere.
func dropPictures(tx *gorm.DB, jobID string) (gone []job.PictureSum, err error) {
	var sums []job.PictureSum
	if err := tx.Model(&pictureUse{}).Distinct("sum").Where("job_id = ?", jobID).Pluck("sum", &sums).Error; err != nil {
		return nil, fmt.Errorf("store: pictures: %w", err)
	}
	if err := tx.Where("job_id = ?", jobID).Delete(&pictureUse{}).Error; err != nil {
		return nil, fmt.Errorf("store: pictures: %w", err)
	}
	for _, sum := range sums {
		// The picture is held first: whoever tells the same one just now is done, and counted, or waits and brings it
		// anew.
		var held, others []string
		lock := clause.Locking{Strength: "UPDATE"}
		if err := tx.Clauses(lock).Model(&pictureRow{}).Where("sum = ?", sum).Pluck("sum", &held).Error; err != nil {
			return nil, err
		}
		if err := tx.Clauses(lock).Model(&pictureUse{}).Where("sum = ?", sum).Limit(1).Pluck("job_id", &others).Error; err != nil {
			return nil, err
		}
		if len(others) > 0 {
			continue
		}
		if err := tx.Where("sum = ?", sum).Delete(&pictureRow{}).Error; err != nil {
			return nil, err
		}
		gone = append(gone, sum)
	}
	return gone, nil
}

// dropThere takes pictures out of the store outside.
func (s *Store) dropThere(ctx context.Context, sums []job.PictureSum) error {
	if s.at.pictures == nil {
		return nil
	}
	for _, sum := range sums {
		if err := s.at.pictures.Drop(ctx, s.pictureName(sum)); err != nil {
			return fmt.Errorf("store: the store for photos: %w", err)
		}
	}
	return nil
}

// checkPictures tells of every photo whose picture is nowhere, or still in the log.
func (s *Store) checkPictures(ctx context.Context, tell func(Difference)) error {
	var rows []logRow
	return s.db.WithContext(ctx).Where("kind = ?", string(job.KindPhoto)).FindInBatches(&rows, 20, func(*gorm.DB, int) error {
		for i := range rows {
			e, err := rows[i].event()
			if err != nil {
				return err
			}
			p, is := e.Body.(*job.Photographed)
			if !is || p.Gone {
				continue
			}
			of := fmt.Sprintf("%s %d", rows[i].JobID, rows[i].N)
			if len(p.JPEG) > 0 {
				tell(Difference{What: picturesInLog, Of: of, Kept: "in the log", Is: "apart"})
				continue
			}
			switch _, err := s.Picture(ctx, p); {
			case errors.Is(err, ErrPictureLost):
				tell(Difference{What: "pictures", Of: of, Kept: string(p.Sum), Is: "lost"})
			case err != nil:
				return err
			}
		}
		return nil
	}).Error
}

// picturesInLog are what a log from before there was a place for them has in it.
const picturesInLog = "pictures in the log"

// takeApart takes what an older log has in it out to the table.
func (s *Store) takeApart(ctx context.Context, of string) error {
	var id string
	var n int64
	if _, err := fmt.Sscanf(of, "%s %d", &id, &n); err != nil {
		return err
	}
	return s.inTransaction(ctx, func(tx *gorm.DB) error {
		var row logRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("job_id = ? AND n = ?", id, n).Take(&row).Error; err != nil {
			return notFound(err)
		}
		e, err := row.event()
		if err != nil {
			return err
		}
		body, err := apart(tx.Session(&gorm.Session{NewDB: true}), id, e)
		if err != nil {
			return err
		}
		data, err := encode(body)
		if err != nil {
			return err
		}
		return tx.Session(&gorm.Session{NewDB: true}).Exec("UPDATE log SET data = ? WHERE job_id = ? AND n = ?", data, id, n).Error
	})
}

// dumpPictures writes every picture that is told of into a backup, from the table or from the store outside; lost are
// those that are in neither.
func (s *Store) dumpPictures(ctx context.Context, tx *sql.Tx, to io.Writer) (n, lost int64, err error) {
	sums, err := sumsOf(ctx, tx)
	if err != nil {
		return 0, 0, err
	}
	out := json.NewEncoder(to)
	for _, sum := range sums {
		row := pictureRow{Sum: sum}
		err := tx.QueryRowContext(ctx, "SELECT jpeg, kept_at FROM pictures WHERE sum = ?", sum).Scan(&row.JPEG, &row.KeptAt)
		if errors.Is(err, sql.ErrNoRows) {
			row.KeptAt = time.Now().UTC()
			row.JPEG, err = s.Picture(ctx, &job.Photographed{Sum: sum})
		}
		if errors.Is(err, ErrPictureLost) {
			lost++
			continue
		}
		if err != nil {
			return n, lost, err
		}
		if err := out.Encode(map[string]any{"sum": sum, "jpeg": plain(row.JPEG), "kept_at": plain(row.KeptAt)}); err != nil {
			return n, lost, err
		}
		n++
	}
	return n, lost, nil
}

func sumsOf(ctx context.Context, tx *sql.Tx) (sums []job.PictureSum, err error) {
	rows, err := tx.QueryContext(ctx, "SELECT DISTINCT sum FROM job_pictures ORDER BY sum")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var sum job.PictureSum
		if err := rows.Scan(&sum); err != nil {
			return nil, err
		}
		sums = append(sums, sum)
	}
	return sums, rows.Err()
}
