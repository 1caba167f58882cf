package store

import (
	"strconv"

	"gorm.io/gorm/clause"
)

// UserByLogin returns the person of that login.
func (r *Reader) UserByLogin(login string) (User, bool, error) {
	return first[User](r.g.Where("login = ?", login))
}

// Users lists everybody, by role and name.
func (r *Reader) Users() ([]User, error) { return find[User](r.g.Order("role, name")) }

// HasOrders says whether there is any order at all.
func (r *Reader) HasOrders() (bool, error) {
	row, _, err := one[struct{ There bool }](r, `SELECT EXISTS (SELECT 1 FROM sales_order) AS there`)
	return row.There, err
}

// UserByID returns the person of that key.
func (r *Reader) UserByID(id int64) (u User, err error) {
	err = r.g.Where("id = ?", id).First(&u).Error
	return u, err
}

// Setting returns what is remembered under the key, or "".
func (r *Reader) Setting(key string) (string, error) {
	s, _, err := first[Setting](r.g.Where("key = ?", key))
	return s.Value, err
}

// QuoteLimit is above which value, in minor units of the firm's currency, a quote needs a manager's approval.
func (r *Reader) QuoteLimit() (int64, error) {
	v, err := r.Setting("quote_limit_minor")
	if err != nil || v == "" {
		return 0, err
	}
	return strconv.ParseInt(v, 10, 64)
}

// Remember keeps the value under the key.
func (t *Tx) Remember(key, value string) error {
	return t.g.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "key"}}, DoUpdates: clause.AssignmentColumns([]string{"value"})}).
		Create(&Setting{Key: key, Value: value}).Error
}

// SetPassword keeps the hash of a person's password.
func (t *Tx) SetPassword(user int64, hash string) error {
	return t.g.Model(&User{ID: user}).Update("password_hash", hash).Error
}

// ChangePerson sets a person's name, role and whether they may sign in; who may not has no sessions any more.
func (t *Tx) ChangePerson(command, user int64, name, role string, active bool) error {
	_, err := t.exec(`INSERT INTO person_change (command_id, user_id, name, role, active) VALUES ($1, $2, $3, $4, $5)`,
		command, user, name, role, active)
	return err
}

// LockPeople lets one change of people come after another, until the transaction ends.
func (t *Tx) LockPeople() error {
	_, err := t.exec(`SELECT pg_advisory_xact_lock(7201006)`)
	return err
}

// ActiveManagers is how many managers may sign in.
func (r *Reader) ActiveManagers() (n int64, err error) {
	err = r.g.Model(&User{}).Where("role = 'manager' AND active").Count(&n).Error
	return n, err
}
