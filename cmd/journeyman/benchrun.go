package main

import (
	"bytes"
	"fmt"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/undo"
	"journeyman/internal/rooms"
	"journeyman/internal/store"
)

// runs times a run over a book of many open lines, from the click to the picture and from the
// click to what is written, and moving units on one contested item.
func (b *benching) runs(s *store.Store, by command.Actor) error {
	d := rooms.Open(s, rooms.Options{})
	call := func() command.Call { return command.Call{Key: command.NewKey(), Actor: by} }
	fmt.Printf("\na run over %d open lines (goals: shown in 3 s, applied in 10 s)\n", b.lines)
	var v allocation.RunView
	for _, policy := range []string{"By tier and date", "Fair shares by tier", "Most orders complete"} {
		begin := time.Now()
		var err error
		if v, err = d.Allocation.Rehearse(b.ctx, call(), allocation.RunAsk{Policy: policy}); err != nil {
			return err
		}
		fmt.Printf(
			"  %-24s shown in %5.2f s: %d units on %d lines\n", policy, time.Since(begin).Seconds(), v.Plans[0].All.Units, v.Plans[0].Takes,
		)
	}
	var took []time.Duration
	for i := range 40 {
		begin := time.Now()
		if _, err := d.Allocation.Contest(b.ctx, allocation.ContestAsk{SKU: fmt.Sprintf("X-%d", i), Warehouse: "HL"}); err != nil {
			return err
		}
		took = append(took, time.Since(begin))
	}
	slices.Sort(took)
	fmt.Printf("  one contested item: %.0f ms (median), %.0f ms (95th)\n", ms(took[20]), ms(took[37]))
	var applied, takenBack []time.Duration
	var copied time.Duration
	for range 3 {
		if v, err := d.Allocation.Rehearse(b.ctx, call(), allocation.RunAsk{Policy: "Most orders complete"}); err != nil {
			return err
		} else if err := b.applyAndTakeBack(d, call, v, &applied, &takenBack, &copied); err != nil {
			return err
		}
	}
	slices.Sort(applied)
	slices.Sort(takenBack)
	fmt.Printf(
		"  applied in %.2f s (%.2f – %.2f), taken back in %.2f s (%.2f – %.2f), three times; its entries are copied into a table like the "+
			"journal in %.2f s: %.1f of that (goal: 2)\n",
		applied[1].Seconds(), applied[0].Seconds(), applied[2].Seconds(), takenBack[1].Seconds(), takenBack[0].Seconds(),
		takenBack[2].Seconds(), copied.Seconds(), applied[1].Seconds()/copied.Seconds(),
	)
	return nil
}

// applyAndTakeBack times a rehearsed run applied, its entries copied, and the run taken back. Each begins right after a checkpoint: what
// the database writes for the first change of a page does not fall on one of them alone.
func (b *benching) applyAndTakeBack(
	d *rooms.Rooms, call func() command.Call, v allocation.RunView, applied, takenBack *[]time.Duration, copied *time.Duration,
) error {
	if err := b.checkpoint(); err != nil {
		return err
	}
	begin := time.Now()
	out, err := d.Allocation.ApplyRun(b.ctx, call(), allocation.ApplyAsk{Plan: v.Plans[0].Key})
	if err != nil {
		return err
	}
	*applied = append(*applied, time.Since(begin))
	took, _, err := b.copyEntries(out.Command)
	if err != nil {
		return err
	}
	if *copied == 0 || took < *copied {
		*copied = took
	}
	if err := b.checkpoint(); err != nil {
		return err
	}
	begin = time.Now()
	_, err = d.Undo.TakeBack(b.ctx, call(), undo.UndoAsk{Command: out.Command})
	*takenBack = append(*takenBack, time.Since(begin))
	return err
}

func (b *benching) checkpoint() error {
	conn, err := pgx.Connect(b.ctx, b.cluster.URL("imports"))
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(b.ctx) }()
	_, err = conn.Exec(b.ctx, "CHECKPOINT")
	return err
}

// copyEntries times how long it takes to copy the entries of a command into a table with the keys, checks and indexes of the journal, but
// without its trigger.
func (b *benching) copyEntries(of int64) (took time.Duration, entries int64, err error) {
	conn, err := pgx.Connect(b.ctx, b.cluster.URL("imports"))
	if err != nil {
		return 0, 0, err
	}
	defer func() { _ = conn.Close(b.ctx) }()
	if _, err := conn.Exec(b.ctx, `DROP TABLE IF EXISTS copied; CREATE TABLE copied (LIKE journal INCLUDING ALL)`); err != nil {
		return 0, 0, err
	}
	var rows bytes.Buffer
	from := fmt.Sprintf(`COPY (SELECT * FROM journal WHERE command_id = %d ORDER BY id) TO STDOUT (FORMAT binary)`, of)
	if _, err := conn.PgConn().CopyTo(b.ctx, &rows, from); err != nil {
		return 0, 0, err
	}
	begin := time.Now()
	tag, err := conn.PgConn().CopyFrom(b.ctx, &rows, `COPY copied FROM STDIN (FORMAT binary)`)
	return time.Since(begin), tag.RowsAffected(), err
}
