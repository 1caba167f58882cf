package store

import (
	"context"
	"time"
)

// Progress is how far a long command is.
type Progress struct {
	Key   string    `json:"-"`
	Step  string    `json:"step" doc:"What is being done"`
	Done  int64     `json:"done"`
	Total int64     `json:"total"`
	At    time.Time `json:"-"`
}

// SetProgress tells others how far a long command is. It is written outside the
// command's transaction; losing it loses nothing. A command that holds rows still must not wait
// for a connection that those have who wait for the rows: if there is none it is not told.
func (s *Store) SetProgress(ctx context.Context, p Progress) error {
	if st := s.aside.Stat(); st.AcquiredConns() >= st.MaxConns() {
		return nil
	}
	ctx, cancel := context.WithTimeout(ctx, 200*time.Millisecond)
	defer cancel()
	_, err := s.aside.Exec(ctx, `INSERT INTO progress (key, step, done, total) VALUES ($1, $2, $3, $4)
		ON CONFLICT (key) DO UPDATE SET step = excluded.step, done = excluded.done, total = excluded.total, at = now()`,
		p.Key, p.Step, p.Done, p.Total)
	return err
}

// EndProgress forgets it, and whatever was left behind for a day.
func (s *Store) EndProgress(ctx context.Context, key string) error {
	_, err := s.aside.Exec(ctx, `DELETE FROM progress WHERE key = $1 OR at < now() - interval '1 day'`, key)
	return err
}

// ProgressOf returns how far the command of that key is, if it runs.
func (r *Reader) ProgressOf(key string) (Progress, bool, error) {
	return one[Progress](r, `SELECT key, step, done, total FROM progress WHERE key = ?`, key)
}
