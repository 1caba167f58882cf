package sales_test

import (
	"context"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/sales"
	"journeyman/internal/query"
)

func TestAQuoteAboveTheLimitWaitsForAManager(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	number := o.Quoted(o.Tom)
	v := o.Quote(number)
	if v.State != "to approve" || v.ValueMinor != 40*1278+2*189000 || v.Expires != "2027-03-15" || v.MadeBy != "Tom Sale" ||
		v.Items[0].Told != "2027-03-05" {
		t.Errorf("made %+v, told %s", v.QuoteRow, v.Items[0].Told)
	}
	if at := o.Line("SO-1001", 1).At; at.Promised != 0 {
		t.Errorf("a quote promised %+v", at)
	}
	_, err := o.Sales.AcceptQuote(ctx, o.By(o.Tom), v.Rest)
	desktest.Refused(t, err, command.KindConflict, number+" cannot be accepted", "more than 2,500.00 GBP", "manager")
	_, err = o.Sales.ApproveQuote(ctx, o.By(o.Ana), sales.QuoteNamed{Number: number, Seen: v.Version})
	desktest.Refused(t, err, command.KindForbidden, "approve a quote", "manager")
	desktest.Done(t)(o.Sales.ApproveQuote(ctx, o.By(o.Max), sales.QuoteNamed{Number: number, Seen: v.Version}))
	if v := o.Quote(number); v.State != "open" || v.ApprovedBy != "Max Orme" || o.CanQuote(number, "accept").Qty != 42 {
		t.Errorf("approved, it is %s by %q", v.State, v.ApprovedBy)
	}
	_, err = o.Sales.ApproveQuote(ctx, o.By(o.Max), sales.QuoteNamed{Number: number})
	desktest.Refused(t, err, command.KindConflict, "needs no approval")
	_, err = o.Sales.AcceptQuote(ctx, o.By(o.Tom), v.Rest)
	desktest.Refused(t, err, command.KindConflict, "has changed since you saw it", "Max Orme approved the quote")

	// A manager's own quote needs nobody else; one that is changed by another does again.
	own := o.Quoted(o.Max)
	if v := o.Quote(own); v.State != "open" {
		t.Errorf("a manager's own quote is %s", v.State)
	}
	desktest.Done(t)(
		o.Sales.MakeQuote(ctx, o.By(o.Tom), sales.QuoteAsk{Number: own, Seen: o.Quote(own).Version, Draft: o.Quote(own).Draft}),
	)
	if v := o.Quote(own); v.State != "to approve" || len(v.Trail) != 2 {
		t.Errorf("changed by sales it is %s; %+v", v.State, v.Trail)
	}
	// And with a higher limit none of them does.
	_, err = o.Admin.SetQuoteLimit(ctx, o.By(o.Ana), admin.LimitAsk{Minor: 1})
	desktest.Refused(t, err, command.KindForbidden)
	desktest.Done(t)(o.Admin.SetQuoteLimit(ctx, o.By(o.Max), admin.LimitAsk{Minor: 500_000}))
	if v := o.Quote(own); v.State != "open" {
		t.Errorf("below the limit it is %s", v.State)
	}
}

func TestAQuoteIsAcceptedInPartAndThenTheRest(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	number := o.Quoted(o.Max)
	v := o.Quote(number)
	ask := v.Rest
	ask.CustomerRef = "Our 4711"
	ask.Lines = slices.Clone(v.Rest.Lines)
	ask.Lines[0].Qty, ask.Lines[1].Qty = 25, 0

	// Somebody else takes most of the glaze meanwhile: what can be promised is computed again.
	o.Enter(sales.Draft{Customer: "ALD", Wanted: "2027-03-03", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 58}}})
	now := o.Draft(ask)
	if l := now.Lines[0]; desktest.Parts(l.Parts) != "10 HL 03-02, 15 HL 03-10" || l.Told != "2027-03-05" || l.Most != 40 ||
		l.PriceMinor != 1278 {
		t.Errorf("it comes to %q, told %s, at most %d at %d", desktest.Parts(l.Parts), l.Told, l.Most, l.PriceMinor)
	}
	free := int64(1)
	ask.Lines[0].ListMinor = &free // the price is the quoted one, whatever is sent
	ask.Lines[0].Shown = now.Lines[0].Parts
	out := desktest.Done(t)(o.Sales.AcceptQuote(ctx, o.By(o.Tom), ask))
	if !strings.Contains(out.Sentence, "Accepted part of "+number+": it is SO-20002, 319.50 GBP") ||
		!strings.Contains(out.Sentence, "The rest can still be accepted") {
		t.Error(out.Sentence)
	}
	order := o.Order("SO-20002")
	if order.CustomerRef != "Our 4711" || len(order.Lines) != 1 || order.Lines[0].PriceMinor != 1278 || order.At.Promised != 25 {
		t.Errorf("it became %+v", order.OrderRow)
	}
	if !slices.ContainsFunc(order.Documents, func(d query.DocumentView) bool { return d.Kind == "quote" && d.Number == number }) {
		t.Errorf("the order does not lead to its quote: %+v", order.Documents)
	}
	v = o.Quote(number)
	if !v.Part || v.State != "open" || v.AcceptedMinor != 25*1278 || len(v.Orders) != 1 || v.Orders[0].Number != "SO-20002" ||
		len(v.Rest.Lines) != 2 || v.Rest.Lines[0].Qty != 15 {
		t.Errorf("the quote is %+v with %d orders and %+v left", v.QuoteRow, len(v.Orders), v.Rest.Lines)
	}
	_, err := o.Sales.MakeQuote(ctx, o.By(o.Tom), sales.QuoteAsk{Number: number, Draft: v.Draft})
	desktest.Refused(t, err, command.KindConflict, "cannot be changed", "part of it is accepted")

	desktest.Done(t)(o.Sales.AcceptQuote(ctx, o.By(o.Tom), v.Rest))
	v = o.Quote(number)
	if v.State != "accepted" || len(v.Orders) != 2 || len(v.Rest.Lines) != 0 {
		t.Errorf("in the end it is %s, %d orders", v.State, len(v.Orders))
	}
	for _, c := range v.Can {
		if c.Qty != 0 || c.Why.String() != "it is accepted" {
			t.Errorf("accepted, and yet %+v", c)
		}
	}
	o.Sound()
}

func TestAQuoteIsNotAcceptedTwiceAtOnce(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	number := o.Quoted(o.Max)
	rest := o.Quote(number).Rest
	rest.Seen = 0 // even where the version is not looked at
	errs := make([]error, 5)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Go(func() { _, errs[i] = o.Sales.AcceptQuote(context.Background(), o.By(o.Tom), rest) })
	}
	wg.Wait()
	accepted := 0
	for _, err := range errs {
		if err == nil {
			accepted++
			continue
		}
		desktest.Refused(t, err, or(command.KindConflict, command.KindInvalid, err))
	}
	if v := o.Quote(number); accepted != 1 || len(v.Orders) != 1 {
		t.Errorf("accepted %d times, %d orders", accepted, len(v.Orders))
	}
	o.Sound()
}

// or is the kind of the refusal if it is one of two.
func or(a, b command.Kind, err error) command.Kind {
	if r, ok := command.AsRefusal(err); ok && r.Kind == b {
		return b
	}
	return a
}

func TestAQuoteEnds(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	number := o.Quoted(o.Max)
	_, err := o.Sales.WithdrawQuote(ctx, o.By(o.Tom), sales.QuoteNamed{Number: number})
	desktest.Refused(t, err, command.KindInvalid, "Say why")
	o.At = o.At.Add(15 * 24 * time.Hour)
	if v := o.Quote(number); v.State != "expired" {
		t.Errorf("after two weeks it is %s", v.State)
	}
	_, err = o.Sales.AcceptQuote(ctx, o.By(o.Tom), o.Quote(number).Rest)
	desktest.Refused(t, err, command.KindConflict, "it has expired", "change it to give it another day")
	later := sales.QuoteAsk{Number: number, Expires: "2027-03-20", Draft: o.Quote(number).Draft}
	later.Draft.Wanted = "2027-03-24"
	desktest.Done(t)(o.Sales.MakeQuote(ctx, o.By(o.Max), later))
	if v := o.Quote(number); v.State != "open" || v.Expires != "2027-03-20" {
		t.Errorf("given another day it is %s until %s", v.State, v.Expires)
	}
	call := o.By(o.Tom)
	call.Reason = "they buy elsewhere"
	desktest.Done(t)(o.Sales.WithdrawQuote(ctx, call, sales.QuoteNamed{Number: number}))
	v := o.Quote(number)
	if last := v.Trail[len(v.Trail)-1]; v.State != "withdrawn" || last.Text.String() != "withdrew the quote: they buy elsewhere" ||
		last.Who != "Tom Sale" {
		t.Errorf("%s: %+v", v.State, last)
	}
	_, err = o.Sales.AcceptQuote(ctx, o.By(o.Tom), v.Rest)
	desktest.Refused(t, err, command.KindConflict, "it is withdrawn")
}

func TestWhatIsNoQuoteIsRefused(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	line := sales.DraftLine{SKU: "TL-014", Qty: 1}
	number := o.Quoted(o.Max)
	rest := o.Quote(number).Rest
	tooMany, other := rest, rest
	tooMany.Lines = []sales.DraftLine{rest.Lines[0]}
	tooMany.Lines[0].Qty = 41
	other.Lines = []sales.DraftLine{{SKU: "TL-014", Qty: 1, QuoteLine: 1}}
	for _, c := range []struct {
		name  string
		do    func() (command.Outcome, error)
		kind  command.Kind
		words string
	}{
		{"no customer", func() (command.Outcome, error) {
			return o.Sales.MakeQuote(ctx, o.By(o.Tom), sales.QuoteAsk{Draft: sales.Draft{Lines: []sales.DraftLine{line}}})
		}, command.KindInvalid, "Choose the customer"},
		{"a day that has passed", func() (command.Outcome, error) {
			return o.Sales.MakeQuote(
				ctx, o.By(o.Tom),
				sales.QuoteAsk{Expires: "2027-02-01", Draft: sales.Draft{Customer: "SPC", Lines: []sales.DraftLine{line}}},
			)
		}, command.KindInvalid, "has passed"},
		{"another quote's number", func() (command.Outcome, error) {
			return o.Sales.MakeQuote(
				ctx, o.By(o.Tom), sales.QuoteAsk{Number: "Q-1", Draft: sales.Draft{Customer: "SPC", Lines: []sales.DraftLine{line}}},
			)
		}, command.KindNotFound, "no quote Q-1"},
		{
			"more than was quoted", func() (command.Outcome, error) { return o.Sales.AcceptQuote(ctx, o.By(o.Tom), tooMany) },
			command.KindInvalid, "40 are left to accept",
		},
		{
			"what was not quoted", func() (command.Outcome, error) { return o.Sales.AcceptQuote(ctx, o.By(o.Tom), other) },
			command.KindNotFound, "only what was quoted",
		},
		{"no quote at all", func() (command.Outcome, error) {
			return o.Sales.AcceptQuote(ctx, o.By(o.Tom), sales.Draft{Customer: "SPC", Lines: []sales.DraftLine{line}})
		}, command.KindInvalid, "which quote"},
		{
			"by the floor", func() (command.Outcome, error) { return o.Sales.AcceptQuote(ctx, o.By(o.Flo), rest) }, command.KindForbidden,
			"sales",
		},
		{
			"entering it once more", func() (command.Outcome, error) { return o.Sales.Enter(ctx, o.By(o.Tom), rest) }, command.KindInvalid,
			"accept the quote",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := c.do()
			desktest.Refused(t, err, c.kind, c.words)
		})
	}
	list, err := o.Query.Quotes(ctx, query.Ask{Query: "saltpan kl-070"})
	if err != nil || len(list.Quotes) != 1 || list.Quotes[0].Number != number || list.Quotes[0].MarginBP == nil {
		t.Errorf("the list has %+v (%v)", list, err)
	}
	if none, err := o.Query.Quotes(ctx, query.InState("withdrawn")); err != nil || len(none.Quotes) != 0 {
		t.Errorf("withdrawn are %+v (%v)", none, err)
	}
	if hits, err := o.Query.Search(ctx, strings.ToLower(number)); err != nil || len(hits) != 1 || hits[0].Kind != "quote" {
		t.Errorf("searching finds %+v (%v)", hits, err)
	}
}
