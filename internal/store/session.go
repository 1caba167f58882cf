package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// A session ends after so long, whatever happens in it, and after so long in which nothing does.
const (
	SessionLifetime = 12 * time.Hour
	SessionIdle     = 30 * time.Minute
)

// living are the sessions that have not ended.
const living = `began > now() - interval '12 hours' AND seen > now() - interval '30 minutes'`

// Session is somebody who is signed in somewhere.
type Session struct {
	ID      int64
	User    User
	Began   time.Time
	Seen    time.Time
	Address string
	Agent   string
}

// BeginSession signs a person in. The token is the SHA-256 of what the cookie holds.
func (s *Store) BeginSession(ctx context.Context, token []byte, user int64, address, agent string) (id int64, err error) {
	err = s.aside.QueryRow(ctx, `INSERT INTO session (token, user_id, address, agent) VALUES ($1, $2, $3, $4) RETURNING id`,
		token, user, address, agent).Scan(&id)
	return id, err
}

// SessionByToken returns the session of an active person, if it has not ended.
func (s *Store) SessionByToken(ctx context.Context, token []byte) (x Session, found bool, err error) {
	err = s.aside.QueryRow(ctx, `SELECT x.id, x.began, x.seen, u.id, u.login, u.name, u.role FROM session x
		JOIN app_user u ON u.id = x.user_id
		WHERE x.token = $1 AND u.active AND `+living, token).Scan(&x.ID, &x.Began, &x.Seen, &x.User.ID, &x.User.Login, &x.User.Name, &x.User.Role)
	if errors.Is(err, pgx.ErrNoRows) {
		return x, false, nil
	}
	x.User.Active = true
	return x, err == nil, err
}

// SessionLives says whether the session has not ended.
func (s *Store) SessionLives(ctx context.Context, id int64) (lives bool, err error) {
	err = s.aside.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM session x JOIN app_user u ON u.id = x.user_id WHERE x.id = $1
		AND u.active AND `+living+`)`, id).Scan(&lives)
	return lives, err
}

// SeeSession notes that something was done in the session. It does not bring back one that has ended.
func (s *Store) SeeSession(ctx context.Context, id int64) error {
	_, err := s.aside.Exec(ctx, `UPDATE session SET seen = now() WHERE id = $1`, id)
	return err
}

// EndSession ends a session for good.
func (s *Store) EndSession(ctx context.Context, id int64) error {
	_, err := s.aside.Exec(ctx, `DELETE FROM session WHERE id = $1`, id)
	return err
}

// EndSessionsOf ends all sessions of a person but one, which may be 0.
func (t *Tx) EndSessionsOf(user, but int64) error {
	_, err := t.exec(`DELETE FROM session WHERE user_id = $1 AND id <> $2`, user, but)
	return err
}

// EndSessionOf ends a session of a person, if it is theirs, and says whether there was one.
func (t *Tx) EndSessionOf(user, id int64) (bool, error) {
	n, err := t.exec(`DELETE FROM session WHERE user_id = $1 AND id = $2`, user, id)
	return n > 0, err
}

// SessionRow is a session as it is listed.
type SessionRow struct {
	ID      int64
	UserID  int64
	Began   time.Time
	Seen    time.Time
	Address string
	Agent   string
}

// Sessions returns the sessions that have not ended, of one person or, for 0, of all; the last seen first.
func (r *Reader) Sessions(user int64) ([]SessionRow, error) {
	return all[SessionRow](r, `SELECT id, user_id, began, seen, address, agent FROM session
		WHERE (@user = 0 OR user_id = @user) AND `+living+` ORDER BY seen DESC, id`,
		map[string]any{"user": user})
}

// TryPassword notes that the password of a login is tried, and says whether it may be: not if it was so often within the last
// quarter of an hour. One try is counted after another, however many come at once.
func (s *Store) TryPassword(ctx context.Context, login, address string, most int) (may bool, err error) {
	err = pgx.BeginFunc(ctx, s.aside, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('password of ' || $1, 0))`, login); err != nil {
			return err
		}
		return tx.QueryRow(ctx, `
			WITH noted AS (INSERT INTO sign_in_failure (login, address)
				SELECT $1, $2 WHERE (SELECT count(*) FROM sign_in_failure WHERE login = $1 AND at > now() - interval '15 minutes') < $3
					RETURNING 1)
			SELECT EXISTS (SELECT FROM noted)`, login, address, most).Scan(&may)
	})
	return may, err
}

// PasswordWasRight forgets what was tried before.
func (s *Store) PasswordWasRight(ctx context.Context, login string) error {
	_, err := s.aside.Exec(ctx, `DELETE FROM sign_in_failure WHERE login = $1`, login)
	return err
}

// ForgetTries forgets what was tried with the password of a login that gets another one.
func (t *Tx) ForgetTries(login string) error {
	_, err := t.exec(`DELETE FROM sign_in_failure WHERE login = $1`, login)
	return err
}

// Sweep deletes what has ended: sessions, what was tried in vain, imports that were applied or not wanted, rehearsals and
// progress of a day ago. Rows of imports are deleted some thousands at a time, so that nobody waits for it.
func (s *Store) Sweep(ctx context.Context) error {
	for _, q := range []string{
		`DELETE FROM session WHERE NOT (` + living + `)`,
		`DELETE FROM sign_in_failure WHERE at < now() - interval '1 day'`,
		`DELETE FROM progress WHERE at < now() - interval '1 day'`,
		`DELETE FROM import_run WHERE at < now() - interval '1 day' AND applied IS NULL`,
	} {
		if _, err := s.aside.Exec(ctx, q); err != nil {
			return err
		}
	}
	for {
		res, err := s.aside.Exec(ctx, `DELETE FROM import_row WHERE ctid = ANY (ARRAY(SELECT x.ctid FROM import_row x
			WHERE NOT EXISTS (SELECT 1 FROM import_run i WHERE i.key = x.import AND i.applied IS NULL) LIMIT 20000))`)
		if err != nil || res.RowsAffected() == 0 {
			return err
		}
	}
}

// ServerSecret is what nobody outside knows: keys of the server's own commands are made with it.
func (r *Reader) ServerSecret() (string, error) { return r.Setting("server secret") }
