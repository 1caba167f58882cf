package store

// ListView is how a list is shown, kept under a name.
type ListView struct {
	ID     int64
	List   string
	Name   string
	Owner  int64 // 0: for all
	Who    string
	Search string // JSON
	Opens  bool
}

const listView = `SELECT v.id, v.list, v.name, coalesce(v.owner_id, 0) AS owner, u.name AS who, v.search::text AS search, v.opens
	FROM list_view v JOIN app_user u ON u.id = v.kept_by`

// ListViews returns the views of a list that a person has: their own, then those for all.
func (r *Reader) ListViews(list string, person int64) ([]ListView, error) {
	return all[ListView](r, listView+` WHERE v.list = ? AND (v.owner_id IS NULL OR v.owner_id = ?)
		ORDER BY v.owner_id IS NULL, v.name`, list, person)
}

// ListView returns the view of that key.
func (r *Reader) ListView(id int64) (ListView, bool, error) {
	return one[ListView](r, listView+` WHERE v.id = ?`, id)
}

// KeepListView keeps a view, in place of another of that name. If the list opens with it, it does with no other of the same owner.
func (t *Tx) KeepListView(v ListView, person int64) error {
	if err := t.LockViews(v.List); err != nil {
		return err
	}
	if v.Opens {
		_, err := t.exec(`UPDATE list_view SET opens = false WHERE list = $1 AND coalesce(owner_id, 0) = $2 AND opens`, v.List, v.Owner)
		if err != nil {
			return err
		}
	}
	_, err := t.exec(`INSERT INTO list_view (list, name, owner_id, kept_by, search, opens)
		VALUES ($1, $2, nullif($3::bigint, 0), $4, $5::jsonb, $6)
		ON CONFLICT (list, owner_id, name) DO UPDATE SET kept_by = excluded.kept_by, search = excluded.search, opens = excluded.opens`,
		v.List, v.Name, v.Owner, person, v.Search, v.Opens)
	return err
}

// LockViews lets one change of a list's views come after another, until the transaction ends.
func (t *Tx) LockViews(list string) error {
	_, err := t.exec(`SELECT pg_advisory_xact_lock(7201008, hashtext($1))`, list)
	return err
}

// DropListView takes a view away.
func (t *Tx) DropListView(id int64) error {
	_, err := t.exec(`DELETE FROM list_view WHERE id = $1`, id)
	return err
}
