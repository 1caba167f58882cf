package store

import "context"

// UserByLogin returns the person of that login.
func (r *Reader) UserByLogin(login string) (User, bool, error) {
	return one[User](r, `SELECT * FROM app_user WHERE login = ?`, login)
}

// UserByID returns the person of that key.
func (r *Reader) UserByID(id int64) (User, bool, error) {
	return one[User](r, `SELECT * FROM app_user WHERE id = ?`, id)
}

// Users lists everybody, by name.
func (r *Reader) Users() ([]User, error) {
	return all[User](r, `SELECT * FROM app_user ORDER BY role, name`)
}

// HasOrders says whether there is any order at all.
func (r *Reader) HasOrders() (bool, error) {
	row, _, err := one[struct{ There bool }](r, `SELECT EXISTS (SELECT 1 FROM sales_order) AS there`)
	return row.There, err
}

// Setting returns what is remembered under the key, or "".
func (r *Reader) Setting(key string) (string, error) {
	row, _, err := one[struct{ Value string }](r, `SELECT value FROM setting WHERE key = ?`, key)
	return row.Value, err
}

// Remember keeps the value under the key.
func (t *Tx) Remember(key, value string) error {
	_, err := t.exec(`INSERT INTO setting (key, value) VALUES ($1, $2) ON CONFLICT (key) DO UPDATE SET value = excluded.value`, key, value)
	return err
}

// Sweep deletes sessions that have ended.
func (s *Store) Sweep(ctx context.Context) error {
	_, err := s.Pool.Exec(ctx, `DELETE FROM sessions WHERE expiry < now()`)
	return err
}
