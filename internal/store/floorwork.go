package store

import (
	"time"

	"gorm.io/gorm/clause"
)

// TakeFreeLists notes who picks the lists of rows, of those that nobody has.
func (t *Tx) TakeFreeLists(tasks IDs, picker int64, at time.Time) error {
	_, err := t.exec(`UPDATE pick_list SET picker_id = $2, taken_at = $3 WHERE picker_id IS NULL
		AND id IN (SELECT pick_list_id FROM pick_task WHERE id = ANY($1))`, []int64(tasks), picker, at)
	return err
}

// PickListByNumber holds a pick list still and returns it.
func (t *Tx) PickListByNumber(number string) (PickList, bool, error) {
	return first[PickList](t.g.Clauses(clause.Locking{Strength: "NO KEY UPDATE"}).Omit("grip").Where("number = ?", number))
}

// SetPicker notes who picks a list; nobody if it is nil.
func (t *Tx) SetPicker(list int64, picker *int64, at time.Time) error {
	values := map[string]any{"picker_id": picker, "taken_at": at}
	if picker == nil {
		values["taken_at"] = nil
	}
	return t.g.Model(&PickList{ID: list}).Updates(values).Error
}

// TakeBreak notes that a person is on a break, if that is not known already.
func (t *Tx) TakeBreak(person int64, at time.Time) error {
	_, err := t.exec(`INSERT INTO on_break (user_id, since) VALUES ($1, $2) ON CONFLICT DO NOTHING`, person, at)
	return err
}

// EndBreak notes that a person works again.
func (t *Tx) EndBreak(person int64) error {
	_, err := t.exec(`DELETE FROM on_break WHERE user_id = $1`, person)
	return err
}

// AskForCount asks for the count of an item in a bin, unless that was asked for already.
func (t *Tx) AskForCount(item, warehouse, bin, command int64, why string) error {
	return t.g.Clauses(clause.OnConflict{DoNothing: true}).Omit("DoneBy", "Expected", "Counted").Create(&CountTask{
		ItemID: item, WarehouseID: warehouse, BinID: bin, AskedBy: command, Why: why,
	}).Error
}

// CountRow is a bin that is to be counted, with what it should hold.
type CountRow struct {
	CountTask
	SKU       string `gorm:"column:sku"`
	ItemName  string
	Unit      string
	Barcode   string
	Lots      bool // it is noted of which lot its units are
	Warehouse string
	Bin       string
	Zone      string
	Qty       int64 // what it should hold
	Held      int64
	Due       int64 // of that, what pickers are on the way to fetch
	At        time.Time
	Who       string
}

const countRow = `
	SELECT k.*, i.sku, i.name AS item_name, i.unit, i.barcode, i.lots, w.code AS warehouse, b.code AS bin, b.zone, coalesce(s.qty, 0) AS qty,
		coalesce(s.held, 0) AS held, coalesce((SELECT sum(t.due) FROM pick_task t JOIN order_line l ON l.id = t.line_id
			WHERE t.bin_id = k.bin_id AND l.item_id = k.item_id AND t.qty - t.picked - t.short - t.recalled > 0), 0) AS due,
		c.at, u.name AS who
	FROM count_task k JOIN item i ON i.id = k.item_id JOIN warehouse w ON w.id = k.warehouse_id JOIN bin b ON b.id = k.bin_id
		JOIN command c ON c.id = k.asked_by JOIN app_user u ON u.id = c.actor_id
		LEFT JOIN bin_stock s ON s.item_id = k.item_id AND s.warehouse_id = k.warehouse_id AND s.bin_id = k.bin_id`

// CountsWaiting returns the bins that are to be counted, those that were asked for first first.
func (r *Reader) CountsWaiting(most int) ([]CountRow, error) {
	return all[CountRow](r, countRow+` WHERE k.done_by IS NULL ORDER BY k.id LIMIT ?`, most)
}

// CountByID returns a bin that was to be counted.
func (r *Reader) CountByID(id int64) (CountRow, bool, error) {
	return one[CountRow](r, countRow+` WHERE k.id = ?`, id)
}

// MarkCounted notes what was counted in a bin, if nobody has counted it yet, and says whether that was so.
func (t *Tx) MarkCounted(id, command, expected, counted int64) (bool, error) {
	n, err := t.exec(`UPDATE count_task SET done_by = $2, expected = $3, counted = $4 WHERE id = $1 AND done_by IS NULL`,
		id, command, expected, counted)
	return n == 1, err
}

// PickerRow is a person with how many pick lists they have that are not done.
type PickerRow struct {
	Login, Name, Role string
	Lists             int64
	Break             *time.Time // since when they are on a break, if they are
}

// Pickers returns the people who are active, those of the floor first.
func (r *Reader) Pickers() ([]PickerRow, error) {
	return all[PickerRow](r, `
		SELECT u.login, u.name, u.role, (SELECT since FROM on_break b WHERE b.user_id = u.id) AS break,
			(SELECT count(*) FROM pick_list p WHERE p.picker_id = u.id
			AND p.id IN (SELECT pick_list_id FROM pick_task WHERE qty - picked - short - recalled > 0)) AS lists
		FROM app_user u WHERE u.active ORDER BY u.role <> 'floor', u.name`)
}
