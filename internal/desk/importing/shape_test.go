package importing_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/importing"
	"journeyman/internal/exchange"
)

const foreign = "Order No;Pos;Account;Item Code;Colour;Ordered Qty;Requested Date;Unit Price\n" +
	"F-1;1;SPC;GL-2040-1;green;1.200;13.12.2027;1.234,50\nF-1;2;SPC;KL-070;white;3;13.12.2027;2,00\n"

// A file under other names is asked about once; what was said holds for the next one, for everybody and on the command line.
func TestAFileUnderOtherNamesIsAskedAboutOnce(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	files := []exchange.File{{Name: "theirs.csv", Data: []byte(foreign)}}
	report, err := o.Importing.CheckImport(ctx, o.By(o.Ana), files)
	if err != nil || report.Faulty != 0 || len(report.Shapes) != 1 || report.Shapes[0].Asks != "columns" || len(report.Files) != 0 {
		t.Fatalf("%+v, %v", report, err)
	}
	// Nothing is kept of it, so nothing can be applied.
	_, err = o.Importing.ApplyImport(ctx, o.By(o.Ana), report.Key, false)
	desktest.Refused(t, err, command.KindNotFound, "no longer kept")
	shape := report.Shapes[0]
	ask := importing.ShapeAsk{Header: shape.Header, Mapping: shape.Mapping}
	wrong := ask
	wrong.Mapping.Columns = ask.Mapping.Columns[1:]
	desktest.Refused(t, desktest.Second(o.Importing.KeepShape(ctx, o.By(o.Ana), wrong)), command.KindInvalid, "needs a column that is order")
	desktest.Refused(t, desktest.Second(o.Importing.KeepShape(ctx, o.By(o.Flo), ask)), command.KindForbidden)
	desktest.Done(t)(o.Importing.KeepShape(ctx, o.By(o.Ana), ask))

	report, err = o.Importing.CheckImport(ctx, o.By(o.Max), files)
	if err != nil || report.Faulty != 0 || report.Does != 2 || !report.Shapes[0].Kept {
		t.Fatalf("%+v, %v", report, err)
	}
	if _, _, err = o.Importing.Import(ctx, o.By(o.Max), files); err != nil {
		t.Fatal(err)
	}
	l := o.Line("F-1", 1)
	if l.At.Ordered != 1200 || l.PriceMinor != 123450 || o.Order("F-1").Wanted != "2027-12-13" {
		t.Errorf("%+v", l)
	}
	// It can be said otherwise.
	ask.Mapping.Kind = exchange.LeftOut
	desktest.Done(t)(o.Importing.KeepShape(ctx, o.By(o.Ana), ask))
	report, err = o.Importing.CheckImport(ctx, o.By(o.Max), files)
	if err != nil || report.Does != 0 || len(report.Files) != 0 || len(report.Shapes) != 1 ||
		report.Shapes[0].Mapping.Kind != exchange.LeftOut {
		t.Errorf("%+v, %v", report, err)
	}
	_, err = o.Importing.CheckImport(ctx, o.By(o.Max), nil)
	desktest.Refused(t, err, command.KindInvalid, "at least one")
}

// What is wrong in many rows is one fault with a number, its first rows and what would mend it.
func TestFaultsThatAreAlikeAreGathered(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	var text strings.Builder
	text.WriteString("order,customer,channel,wanted,line,sku,qty\n")
	for i := range 400 {
		fmt.Fprintf(&text, "G-1,SPC,%s,2099-03-01,%d,GL-2040-1,1\n", []string{"web", "fair"}[min(i, 1)], i+1)
	}
	text.WriteString("G-2,NOBODY,web,2099-03-01,1,GL-2040-1,1\n")
	report, err := o.Importing.CheckImport(context.Background(), o.By(o.Ana), []exchange.File{{
		Name: "g.csv", Data: []byte(text.String()),
	}})
	if err != nil || report.Faulty != 400 || len(report.Faults) != 2 {
		t.Fatalf("%d: %+v, %v", report.Faulty, report.Faults, err)
	}
	f := report.Faults[0]
	if f.Column != "channel" || f.Times != 399 || len(f.Rows) != 5 || f.Rows[0] != 3 || !strings.Contains(f.Mend.String(), "alike") {
		t.Errorf("%+v", f)
	}
	if f := report.Faults[1]; f.Column != "customer" || f.Times != 1 || !strings.Contains(f.Mend.String(), "customers file") {
		t.Errorf("%+v", f)
	}
}
