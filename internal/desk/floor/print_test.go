package floor_test

import (
	"bytes"
	"context"
	"fmt"
	"os/exec"
	"strings"
	"sync"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/undo"
	"journeyman/internal/query"
)

func paperOf(t *testing.T, o *desktest.Office, code string) query.PaperView {
	t.Helper()
	p, err := o.Query.Paper(context.Background(), code)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func printed(t *testing.T, o *desktest.Office, numbers []string, packing bool) []command.Document {
	t.Helper()
	out := desktest.Done(t)(o.Floor.Release(context.Background(), o.By(o.Ana), floor.ReleaseAsk{
		Selection: desktest.Whole(numbers...).Selection, Wave: floor.WaveAsk{MostOrders: 5}, Print: true, PackingLists: packing,
	}))
	return out.Documents
}

func TestEverySheetHasACodeAndPrintingAgainMakesTheOlderVoid(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx, ok := context.Background(), desktest.Done(t)
	docs := printed(t, o, numbers, true)
	first := docs[0].Number
	if p := paperOf(t, o, strings.ToLower(first)+"-r1"); p.VoidWhy != "" || p.List != first || p.Revision != 1 || p.State != "drawing" {
		t.Fatalf("%+v", p)
	}
	if p := paperOf(t, o, numbers[0]+"-P1"); p.VoidWhy != "" || p.Order != numbers[0] || p.Kind != "packing list" {
		t.Errorf("%+v", p)
	}
	if err := o.Floor.PutAll(ctx); err != nil {
		t.Fatal(err)
	}
	p := paperOf(t, o, first+"-R1")
	if p.State != "kept" || p.Pages != 12 { // two lists and ten orders, in one document
		t.Errorf("%+v", p)
	}
	if pdf, err := o.Query.Document(ctx, p.Run); err != nil || !strings.HasPrefix(string(pdf), "%PDF-") {
		t.Errorf("%d bytes, %v", len(pdf), err)
	}
	ok(o.Floor.Print(ctx, o.By(o.Flo), floor.PrintAsk{Lists: []string{first}}))
	if p := paperOf(t, o, first+"-R1"); p.VoidWhy != "printed again" || p.VoidWho != o.Flo.Name || p.Standing != first+"-R2" {
		t.Errorf("the older: %+v", p)
	}
	if p := paperOf(t, o, first+"-R2"); p.VoidWhy != "" || p.Revision != 2 {
		t.Errorf("the newer: %+v", p)
	}
	if p := paperOf(t, o, docs[1].Number+"-R1"); p.VoidWhy != "" {
		t.Errorf("another list: %+v", p)
	}
	if list, err := o.Query.PickList(ctx, first); err != nil || len(list.Papers) != 2 || list.Papers[0].Code != first+"-R2" {
		t.Errorf("%+v %v", list.Papers, err)
	}
	_, err := o.Query.Document(ctx, paperOf(t, o, first+"-R2").Run)
	desktest.Refused(t, err, command.KindNotFound, "being drawn")
	_, err = o.Query.Paper(ctx, "PL-0-R1")
	desktest.Refused(t, err, command.KindNotFound, "PL-0-R1")
	for text, ask := range map[string]floor.PrintAsk{
		"Choose": {}, "no pick list PL-0": {Lists: []string{"PL-0"}}, "twice": {Lists: []string{first, first}},
	} {
		_, err := o.Floor.Print(ctx, o.By(o.Flo), ask)
		if err == nil || !strings.Contains(err.Error(), text) {
			t.Errorf("%+v: %v", ask, err)
		}
	}
}

func TestWhatIsRecalledMakesItsSheetsVoid(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx, ok := context.Background(), desktest.Done(t)
	docs := printed(t, o, numbers, true)
	list, err := o.Query.PickList(ctx, docs[0].Number)
	if err != nil {
		t.Fatal(err)
	}
	task := list.Tasks[3]
	ok(o.Floor.Recall(ctx, o.By(o.Ana), []floor.RecallTask{{Task: task.ID, Seen: task.Due}}))
	if p := paperOf(t, o, list.Number+"-R1"); p.VoidWhy != "recalled" || p.VoidWho != o.Ana.Name || p.Standing != "" {
		t.Errorf("its pick list: %+v", p)
	}
	if p := paperOf(t, o, task.Order+"-P1"); p.VoidWhy != "recalled" {
		t.Errorf("its packing list: %+v", p)
	}
	for _, n := range numbers {
		if p := paperOf(t, o, n+"-P1"); n != task.Order && p.VoidWhy != "" {
			t.Errorf("the packing list of another order: %+v", p)
		}
	}
	// Printed again, the list is without it.
	ok(o.Floor.Print(ctx, o.By(o.Ana), floor.PrintAsk{Lists: []string{list.Number}, PackingLists: true}))
	if p := paperOf(t, o, list.Number+"-R2"); p.VoidWhy != "" {
		t.Errorf("%+v", p)
	}
	if p := paperOf(t, o, task.Order+"-P2"); p.VoidWhy != "" || p.Revision != 2 {
		t.Errorf("%+v", p)
	}
	o.Sound()
}

func TestAReleaseThatIsUndoneLeavesNoSheetStanding(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx, ok := context.Background(), desktest.Done(t)
	ask := desktest.Whole(numbers...)
	ask.Print, ask.PackingLists = true, true
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), ask))
	ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command}))
	for _, code := range []string{out.Documents[0].Number + "-R1", numbers[0] + "-P1", numbers[9] + "-P1"} {
		if p := paperOf(t, o, code); p.VoidWhy != "recalled" {
			t.Errorf("%+v", p)
		}
	}
}

// However many print the same at once, one sheet of each stands.
func TestPrintingTheSameAtOnceLeavesOneSheetStanding(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx := context.Background()
	docs := printed(t, o, numbers, false)
	var all sync.WaitGroup
	for i := range 8 {
		all.Go(func() {
			who := o.Ana
			if i%2 == 0 {
				who = o.Flo
			}
			ask := floor.PrintAsk{Lists: []string{docs[i/2%2].Number, docs[(i/2+1)%2].Number}, PackingLists: true}
			if _, err := o.Floor.Print(ctx, o.By(who), ask); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	page, err := o.Query.Papers(ctx, query.Ask{})
	if err != nil || len(page.Papers) != 12 {
		t.Fatalf("%d sheets stand, %v", len(page.Papers), err)
	}
	for _, p := range page.Papers {
		if want := map[string]int{"pick list": 9, "packing list": 8}[p.Kind]; p.Revision != want {
			t.Errorf("%s is revision %d, want %d", p.Code, p.Revision, want)
		}
	}
	void, err := o.Query.Papers(ctx, query.InState("void"))
	if want := 2*8 + 10*7; err != nil || len(void.Papers) != want {
		t.Errorf("%d are void, want %d, %v", len(void.Papers), want, err)
	}
}

// A row that is recalled while its list is printed stands on no sheet that is not void.
func TestPrintingAndRecallingAtOnce(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx := context.Background()
	docs := printed(t, o, numbers, false)
	for round := range 24 {
		list, err := o.Query.PickList(ctx, docs[round%2].Number)
		if err != nil {
			t.Fatal(err)
		}
		task := list.Tasks[0]
		for _, x := range list.Tasks {
			if x.Due > 0 {
				task = x
			}
		}
		var both sync.WaitGroup
		both.Go(func() {
			if _, err := o.Floor.Recall(ctx, o.By(o.Ana), []floor.RecallTask{{Task: task.ID, Seen: task.Due}}); err != nil {
				t.Error(err)
			}
		})
		both.Go(func() {
			if _, err := o.Floor.Print(ctx, o.By(o.Flo), floor.PrintAsk{Lists: []string{list.Number}}); err != nil {
				t.Error(err)
			}
			if err := o.Floor.PutAll(ctx); err != nil {
				t.Error(err)
			}
		})
		both.Wait()
		if err := o.Floor.PutAll(ctx); err != nil {
			t.Fatal(err)
		}
		list, err = o.Query.PickList(ctx, list.Number)
		if err != nil {
			t.Fatal(err)
		}
		last := list.Papers[0]
		text := textOf(t, o, last.Run)
		if last.VoidWhy == "" && strings.Contains(text, fmt.Sprintf("%s, %d ", task.Order, task.Line)) {
			t.Errorf("round %d: %s stands, with what was recalled:\n%s", round, last.Code, text)
		}
	}
}

// textOf is what stands in a document.
func textOf(t *testing.T, o *desktest.Office, run int64) string {
	t.Helper()
	pdf, err := o.Query.Document(context.Background(), run)
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.CommandContext(context.Background(), "pdftotext", "-layout", "-", "-")
	cmd.Stdin = bytes.NewReader(pdf)
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("pdftotext: %v", err)
	}
	return string(out)
}

func TestAPickListOnPaperIsTheListOnTheScreen(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx := context.Background()
	docs := printed(t, o, numbers[:2], true)
	if err := o.Floor.PutAll(ctx); err != nil {
		t.Fatal(err)
	}
	list, err := o.Query.PickList(ctx, docs[0].Number)
	if err != nil {
		t.Fatal(err)
	}
	pages := strings.Split(textOf(t, o, list.Papers[0].Run), "\f")
	at := 0
	for _, task := range list.Tasks {
		row := fmt.Sprintf("%s %d each %s %s %s %s, %d", task.Bin, task.Due, task.SKU, task.Item, task.Tote, task.Order, task.Line)
		found := strings.Index(strings.Join(strings.Fields(pages[0]), " ")[at:], row)
		if found < 0 {
			t.Fatalf("“%s” does not stand in its place:\n%s", row, pages[0])
		}
		at += found
	}
	for _, want := range []string{"6 rows, 18 units, 45.0 kg", "Harrow Lane (HL)", list.Number + "-R1", "Ana"} {
		if !strings.Contains(pages[0], want) {
			t.Errorf("“%s” is missing:\n%s", want, pages[0])
		}
	}
	for _, want := range []string{"Packing list " + numbers[0], numbers[0] + "-P1", "BX-00", "To follow"} {
		if !strings.Contains(pages[1], want) {
			t.Errorf("“%s” is missing:\n%s", want, pages[1])
		}
	}
}
