package posting

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"journeyman/core/journey"
)

func TestTheMigrationIsFresh(t *testing.T) {
	t.Parallel()
	is, err := os.ReadFile(filepath.Join("..", "migrations", File))
	if err != nil {
		t.Fatal(err)
	}
	if string(is) != Migration() {
		t.Errorf("%s is not what the table of moves makes of it: run `go generate ./internal/store/posting`", File)
	}
}

// What a rule touches is what core/journey's own arithmetic changes.
func TestWhatARuleTouchesIsWhatAMoveChanges(t *testing.T) {
	t.Parallel()
	for _, r := range journey.Rules {
		m := journey.Move{Kind: r.Kind, From: r.From, To: r.To, Cause: r.Cause, Qty: 1}
		before := journey.Line{Ordered: 80}
		for s := journey.Open; s <= journey.Dropped; s++ {
			before.At[s] = 10
		}
		place := journey.Place{journey.Allocated: 10, journey.Released: 10, journey.Picked: 10, journey.Packed: 10}
		cell := journey.Cell{
			OnHand: 100, Held: 10, At: journey.Counts{journey.Allocated: 10, journey.Released: 10, journey.Picked: 10, journey.Packed: 10},
		}
		line, was, wasCell := before, place, cell
		if err := journey.Apply(&line, &place, &cell, m); err != nil {
			t.Fatalf("%s: %v", r.Kind, err)
		}
		changed := map[string]int64{"ordered": int64(line.Ordered - before.Ordered)}
		for s := journey.Open; s <= journey.Dropped; s++ {
			changed[s.String()] = int64(line.At[s] - before.At[s])
		}
		for _, c := range ofLine {
			if got := int64(c.by(r)); got != changed[c.name] {
				t.Errorf("%s from %s to %s changes %s of a line by %d, want %d", r.Kind, r.From, r.To, c.name, got, changed[c.name])
			}
		}
		if !r.InHouse {
			continue
		}
		inCell := map[string]int64{
			"on_hand": int64(cell.OnHand - wasCell.OnHand), "held": int64(cell.Held - wasCell.Held), "binned": int64(r.Binned()),
		}
		for s := journey.Allocated; s <= journey.Packed; s++ {
			inCell[s.String()] = int64(cell.At[s] - wasCell.At[s])
			if r.From != r.To && place[s]-was[s] != cell.At[s]-wasCell.At[s] {
				t.Errorf("%s changes %s of a place and of the stock differently", r.Kind, s)
			}
		}
		for _, c := range ofCell {
			if got := int64(c.by(r)); got != inCell[c.name] {
				t.Errorf("%s from %s to %s changes %s of the stock by %d, want %d", r.Kind, r.From, r.To, c.name, got, inCell[c.name])
			}
		}
	}
}

func TestEveryPlaceholderIsFilled(t *testing.T) {
	t.Parallel()
	if text := Migration(); strings.Contains(text, "{{") || strings.Contains(text, "}}") {
		t.Error("a placeholder is left")
	}
}
