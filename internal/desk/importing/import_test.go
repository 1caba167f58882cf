package importing_test

import (
	"bytes"
	"context"
	"errors"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/importing"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
)

func TestTheSameFilesTwiceChangeNothing(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	report, err := o.Importing.CheckImport(ctx, o.By(o.Ana), desktest.SampleFiles(t))
	if err != nil || report.Faulty != 0 || report.Does != 0 {
		t.Fatalf("%+v %v", report, err)
	}
	before := o.Entries()
	out, _, err := o.Importing.Import(ctx, o.By(o.Ana), desktest.SampleFiles(t))
	if err != nil || !strings.Contains(out.Sentence, "here already") {
		t.Errorf("%q %v", out.Sentence, err)
	}
	if after := o.Entries(); after != before {
		t.Errorf("%d journal entries were added", after-before)
	}
	o.Sound()
}

func TestSemicolonsBOMAndCarriageReturnsReadTheSame(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	data := desktest.SampleFiles(t, "stock")[0].Data
	data = bytes.ReplaceAll(bytes.ReplaceAll(data, []byte(","), []byte(";")), []byte("\n"), []byte("\r\n"))
	report, err := o.Importing.CheckImport(
		ctx, o.By(o.Ana), []exchange.File{{Name: "count.csv", Data: append([]byte("\xef\xbb\xbf"), data...)}},
	)
	if err != nil || report.Faulty != 0 || report.Files[0].Unchanged != 8 || report.Files[0].Kind != exchange.Stock {
		t.Fatalf("%+v %v", report, err)
	}
}

func TestAFaultNamesFileRowAndColumnAndNothingIsChanged(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	head := "order,customer,ship_to,wanted,line,sku,warehouse,qty\n"
	cases := []struct {
		why, file, text string
		row             int
		column, words   string
	}{
		{"unknown item", "orders.csv", head + "SO-7,ALD,MAIN,2027-03-09,1,NOPE,HL,3\n", 2, "sku", "items file"},
		{"unknown customer", "orders.csv", head + "SO-7,ZZZ,,2027-03-09,1,TL-014,HL,3\n", 2, "customer", "customers file"},
		{"unknown ship-to", "orders.csv", head + "SO-7,ALD,MOON,2027-03-09,1,TL-014,HL,3\n", 2, "ship_to", "ship-to of customer ALD"},
		{"unknown warehouse", "orders.csv", head + "SO-7,ALD,MAIN,2027-03-09,1,TL-014,XX,3\n", 2, "warehouse", "stock file"},
		{"negative quantity", "orders.csv", head + "SO-7,ALD,MAIN,2027-03-09,1,TL-014,HL,-3\n", 2, "qty", "whole number from 1"},
		{"no quantity", "orders.csv", head + "SO-7,ALD,MAIN,2027-03-09,1,TL-014,HL,\n", 2, "qty", "may not be empty"},
		{"bad date", "orders.csv", head + "SO-7,ALD,MAIN,09/03/2027,1,TL-014,HL,3\n", 2, "wanted", "YYYY-MM-DD"},
		{
			"line twice", "orders.csv", head + "SO-7,ALD,MAIN,2027-03-09,1,TL-014,HL,3\nSO-7,ALD,MAIN,2027-03-09,1,TL-014,HL,4\n", 3,
			"line", "row 2 already",
		},
		{
			"two heads", "orders.csv", head + "SO-7,ALD,MAIN,2027-03-09,1,TL-014,HL,3\nSO-7,ALD,ANNEX,2027-03-09,2,TL-014,HL,4\n", 3,
			"ship_to", "same as in row 2",
		},
		{
			"new line of an old order", "orders.csv", head + "SO-1001,ALD,MAIN,2027-03-03,9,TL-014,HL,3\n", 2, "line",
			"not added to by a file",
		},
		{"unknown column", "items.csv", "sku,name,colour\nA,B,C\n", 1, "colour", "one of the columns"},
		{"missing column", "orders.csv", "order,line,sku\nSO-7,1,TL-014\n", 1, "customer", "a column of this name"},
		{"too few fields", "items.csv", "sku,name\nA\n", 2, "", "2, as in the header"},
		{"open quote", "items.csv", "sku,name\nA,\"B\n", 2, "", "quotes that are closed"},
		{"nothing known", "x.csv", "a,b\n1,2\n", 1, "", "one of the seven files"},
		{"not UTF-8", "items.csv", "sku,name\nA,caf\xe9\n", 2, "", "UTF-8"},
		{"empty", "items.csv", "", 0, "", "names of the columns"},
		{"held above on hand", "stock.csv", "warehouse,sku,bin,on_hand,held\nHL,TL-014,T-03-4,3,4\n", 2, "held", "at most what is on hand"},
		{"bad price", "items.csv", "sku,name,price\nA,B,1.234\n", 2, "price", "2 digits"},
		{"bad tier", "customers.csv", "customer,name,ship_to,tier\nA,B,C,6\n", 2, "tier", "from 1 to 5"},
	}
	before := o.Entries()
	for _, c := range cases {
		t.Run(c.why, func(t *testing.T) {
			files := []exchange.File{{Name: c.file, Data: []byte(c.text)}, {Name: "new.csv", Data: []byte("sku,name\nNEW-1,A new item\n")}}
			if c.file == "items.csv" {
				files = files[:1]
			}
			_, report, err := o.Importing.Import(ctx, o.By(o.Ana), files)
			if !errors.Is(err, importing.ErrFaults) || len(report.Faults) == 0 {
				t.Fatalf("no fault: %+v %v", report, err)
			}
			f := report.Faults[0]
			if f.File != c.file || f.Row != c.row || f.Column != c.column || !strings.Contains(f.Expected.String(), c.words) {
				t.Errorf("%+v", f)
			}
		})
	}
	if o.Entries() != before {
		t.Error("a file with faults changed something")
	}
	if page, err := o.Query.Items(ctx, query.Ask{Query: "NEW-1"}); err != nil || len(page.Items) != 0 {
		t.Errorf("the sound file beside a faulty one was applied: %+v %v", page, err)
	}
}

func TestACountMayNotBreakWhatIsSpokenFor(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 1, 60)))
	count := func(text string) (importing.ImportReport, error) {
		_, report, err := o.Importing.Import(
			ctx, o.By(o.Ana), []exchange.File{{Name: "count.csv", Data: []byte("warehouse,sku,bin,on_hand,held\n" + text)}},
		)
		return report, err
	}
	report, err := count("HL,GL-2040-1,C-14-2,50,4\n")
	desktest.Refused(t, err, command.KindConflict, "fewer of GL-2040-1 at HL than are allocated")
	if len(report.Breaks) != 1 || report.Breaks[0].Allocated-report.Breaks[0].Left != 2 {
		t.Fatalf("%+v", report.Breaks)
	}
	ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 1, 60)}))
	report, err = count("HL,GL-2040-1,C-14-2,30,0\nHL,GL-2040-1,C-14-9,80,0\n")
	if !errors.Is(err, importing.ErrFaults) || !strings.Contains(report.Faults[0].Expected.String(), "pick lists") {
		t.Fatalf("%+v %v", report.Faults, err)
	}
	if _, err = count("HL,GL-2040-1,C-14-2,66,6\nHL,GL-2040-1,C-20-1,5,0\n"); err != nil {
		t.Fatal(err)
	}
	if c := o.Cell("GL-2040-1", "HL"); c.OnHand != 83 || c.Held != 6 || c.Free != 17 {
		t.Errorf("%+v", c)
	}
	o.Sound()
}

func TestAnImportIsAppliedAsItWasShownOrNotAtAll(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	files := []exchange.File{{Name: "items.csv", Data: []byte("sku,name,price\nTL-014,Loop tool,99.00\nNEW-1,A new item,1.00\n")}}
	check := o.By(o.Ana)
	report, err := o.Importing.CheckImport(ctx, check, files)
	if err != nil || report.Files[0].New != 1 || report.Files[0].Changed != 1 ||
		!strings.Contains(report.Files[0].Effects[0].Notes, "price: 11.50 → 99.00") {
		t.Fatalf("%+v %v", report, err)
	}
	if _, _, err := o.Importing.Import(
		ctx, o.By(o.Max), []exchange.File{{Name: "items.csv", Data: []byte("sku,name\nNEW-1,Quicker\n")}},
	); err != nil {
		t.Fatal(err)
	}
	_, err = o.Importing.ApplyImport(ctx, o.By(o.Ana), check.Key, false)
	desktest.Refused(t, err, command.KindConflict, "has changed since you looked")
	check = o.By(o.Ana)
	if _, err := o.Importing.CheckImport(ctx, check, files); err != nil {
		t.Fatal(err)
	}
	apply := o.By(o.Ana)
	first := ok(o.Importing.ApplyImport(ctx, apply, check.Key, false))
	if again := ok(o.Importing.ApplyImport(ctx, apply, check.Key, false)); again.Command != first.Command {
		t.Error("a repeated request was carried out twice")
	}
	_, err = o.Importing.ApplyImport(ctx, o.By(o.Ana), check.Key, false)
	desktest.Refused(t, err, command.KindConflict, "applied already")
}

func TestAnOrderThatIsHereIsKept(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	text := "order,customer,wanted,line,sku,warehouse,qty\nSO-1002,SPC,2027-03-04,1,GL-2040-1,HL,30\n"
	_, report, err := o.Importing.Import(ctx, o.By(o.Ana), []exchange.File{{Name: "orders.csv", Data: []byte(desktest.Leaving(text))}})
	if err != nil || report.Files[0].Kept != 1 || !strings.Contains(report.Files[0].Effects[0].Notes, "qty: 24 → 30") {
		t.Fatalf("%+v %v", report, err)
	}
	if l := o.Line("SO-1002", 1); l.At.Ordered != 24 {
		t.Errorf("%+v", l.At)
	}
}

func TestWhatAFileLeavesOutStaysAsItIs(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	_, report, err := o.Importing.Import(ctx, o.By(o.Ana), []exchange.File{
		{Name: "items.csv", Data: []byte("sku,name,price,cost\nCB-110,\"Stoneware clay, 12.5 kg\",0,\n")},
		{Name: "customers.csv", Data: []byte("customer,name,ship_to,city\nTDW,Tidewrack Studio,STUDIO,New Tidewrack\n")},
	})
	if err != nil || report.Files[0].Effects[0].Notes != "price: 9.80 → 0.00" ||
		report.Files[1].Effects[0].Notes != "city: Tidewrack → New Tidewrack" {
		t.Fatalf("%+v %v", report, err)
	}
	it, err := o.Query.Item(ctx, "CB-110")
	if err != nil || it.PriceMinor != 0 || it.CostMinor != 505 || it.Multiple != 4 || it.WeightG != 12_500 || it.Unit != "bag" {
		t.Errorf("%+v %v", it, err)
	}
	c, err := o.Query.Customer(ctx, "TDW")
	if err != nil || c.ShipRule != "whole" || c.Tier != 2 || c.ShipTos[0].Street != "Old Net Loft" || c.ShipTos[0].City != "New Tidewrack" {
		t.Errorf("%+v %v", c, err)
	}
}
