// Package desktest opens all rooms on a database of a test's own, with the example files imported and a person of each role, and asks and
// does in few words what tests ask and do often.
package desktest

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/importing"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Office is a desk on a database with the example files imported, and its people.
type Office struct {
	*rooms.Rooms
	T testing.TB

	Ana, Tom, Flo, Max command.Actor
	At                 time.Time
}

// New opens an office with the example files imported.
func New(t testing.TB) *Office {
	t.Helper()
	o := &Office{T: t, At: time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)}
	clock := func() time.Time { return o.At }
	o.Rooms = rooms.Open(dbtest.Store(t), rooms.Options{
		WeakHash: true, Now: clock, Carrier: standin.Carrier{After: time.Hour, Now: clock}, Scale: standin.Scale{},
	})
	for _, p := range []struct {
		a    *command.Actor
		name string
		role command.Role
	}{
		{&o.Ana, "Ana Ruiz", command.Coordinator},
		{&o.Tom, "Tom Sale", command.Sales},
		{&o.Flo, "Flo Marsh", command.Floor},
		{&o.Max, "Max Orme", command.Manager},
	} {
		login := strings.ToLower(p.name[:3])
		a, err := o.Admin.AddUser(context.Background(), admin.NewUser{Login: login, Name: p.name, Role: p.role, Password: "correct horse"})
		if err != nil {
			t.Fatal(err)
		}
		*p.a = a
	}
	if _, report, err := o.Importing.Import(context.Background(), o.By(o.Ana), SampleFiles(t)); err != nil {
		t.Fatal(err, report.Faults)
	}
	return o
}

// root is the folder of the module, in or above that of the test.
func root(t testing.TB) string {
	t.Helper()
	dir, err := os.Getwd()
	for ; err == nil; dir = filepath.Dir(dir) {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir
		}
		if dir == filepath.Dir(dir) {
			break
		}
	}
	t.Fatal("the tests run outside the module", err)
	return ""
}

// SampleFiles are the example files, all of them or those of the names.
func SampleFiles(t testing.TB, only ...string) []exchange.File {
	t.Helper()
	if len(only) == 0 {
		only = []string{"items", "stock", "customers", "inbound", "orders"}
	}
	var files []exchange.File
	for _, n := range only {
		b, err := os.ReadFile(filepath.Join(root(t), "examples", n+".csv"))
		if err != nil {
			t.Fatal(err)
		}
		files = append(files, exchange.File{Name: n + ".csv", Data: b})
	}
	return files
}

func (o *Office) By(a command.Actor) command.Call {
	return command.Call{Key: command.NewKey(), Actor: a}
}

func (o *Office) Order(number string) query.OrderView {
	o.T.Helper()
	v, err := o.Query.Order(context.Background(), number)
	if err != nil {
		o.T.Fatal(err)
	}
	return v
}

func (o *Office) Line(number string, n int) supply.LineView {
	o.T.Helper()
	for _, l := range o.Order(number).Lines {
		if l.Line == n {
			return l
		}
	}
	o.T.Fatalf("%s has no line %d", number, n)
	return supply.LineView{}
}

func (o *Office) Qty(number string, n int, q int64) command.Selection {
	o.T.Helper()
	l := o.Line(number, n)
	return command.Selection{Lines: []command.LineQty{{Line: l.ID, Qty: q, Seen: l.Version}}}
}

// Sound fails the test if any count differs from the journal.
func (o *Office) Sound() {
	o.T.Helper()
	diff, n, err := o.Store.Audit(context.Background())
	if err != nil {
		o.T.Fatal(err)
	}
	for _, d := range diff {
		o.T.Error("audit: ", d)
	}
	if n < 50 {
		o.T.Errorf("the audit compared only %d counts", n)
	}
}

func Done(t testing.TB) func(command.Outcome, error) command.Outcome {
	return func(out command.Outcome, err error) command.Outcome {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
}

// Refused checks that the command was refused with a sentence that has all the words.
func Refused(t testing.TB, err error, kind command.Kind, words ...string) {
	t.Helper()
	var r *command.Refusal
	if !errors.As(err, &r) {
		t.Fatalf("not refused: %v", err)
	}
	if r.Kind != kind {
		t.Errorf("kind %d, want %d: %s", r.Kind, kind, r.Message.String())
	}
	for _, w := range words {
		if !strings.Contains(r.Message.String(), w) {
			t.Errorf("%q does not say %q", r.Message.String(), w)
		}
	}
}

// Finish takes everything that is allocated on the order to the customer.
func (o *Office) Finish(number, house string) {
	o.T.Helper()
	ships := []dock.ShipmentSeen{{Number: o.Pack(number, house)}}
	o.Leave(ships...)
	Done(o.T)(o.Dock.Deliver(context.Background(), o.By(o.Flo), ships))
}

func (o *Office) Cell(sku, house string) query.CellView {
	o.T.Helper()
	v, err := o.Query.Item(context.Background(), sku)
	if err != nil {
		o.T.Fatal(err)
	}
	for _, c := range v.Cells {
		if c.Warehouse == house {
			return c
		}
	}
	o.T.Fatalf("no stock row of %s at %s", sku, house)
	return query.CellView{}
}

func (o *Office) Inbound(ref string) query.InboundView {
	o.T.Helper()
	page, err := o.Query.Inbound(context.Background(), query.Ask{Scope: map[string]string{"state": "all"}, Only: []string{"ref=" + ref}})
	if err != nil {
		o.T.Fatal(err)
	}
	for _, v := range page.Inbound {
		if v.Ref == ref {
			return v
		}
	}
	o.T.Fatalf("no inbound %s", ref)
	return query.InboundView{}
}

func (o *Office) Propose(sku, house string) promising.BuyProposal {
	o.T.Helper()
	p, err := o.Promising.ProposeBuy(context.Background(), sku, house)
	if err != nil {
		o.T.Fatal(err)
	}
	return p
}

func (o *Office) Contest(ask allocation.ContestAsk) allocation.ContestView {
	o.T.Helper()
	ask.SKU, ask.Warehouse = "ZB-1", "HL"
	v, err := o.Allocation.Contest(context.Background(), ask)
	if err != nil {
		o.T.Fatal(err)
	}
	return v
}

func (o *Office) Draft(ask sales.Draft) sales.DraftView {
	o.T.Helper()
	v, err := o.Sales.Draft(context.Background(), ask)
	if err != nil {
		o.T.Fatal(err)
	}
	return v
}

func (o *Office) Enter(ask sales.Draft) string {
	o.T.Helper()
	out := Done(o.T)(o.Sales.Enter(context.Background(), o.By(o.Tom), ask))
	if len(out.Documents) != 1 {
		o.T.Fatalf("entering made %v", out.Documents)
	}
	return out.Documents[0].Number
}

func (o *Office) House(code string) admin.HouseView {
	o.T.Helper()
	s, err := o.Admin.Settings(context.Background())
	if err != nil {
		o.T.Fatal(err)
	}
	for _, h := range s.Houses {
		if h.Code == code {
			return h
		}
	}
	o.T.Fatalf("no warehouse %s", code)
	return admin.HouseView{}
}

func (o *Office) CanPromise(q promising.PromiseQuestion) promising.PromiseAnswer {
	o.T.Helper()
	a, err := o.Promising.CanPromise(context.Background(), q)
	if err != nil {
		o.T.Fatal(err)
	}
	return a
}

// File is a file to import, of orders as Leaving makes it.
func File(name, text string) []exchange.File {
	return []exchange.File{{Name: name, Data: []byte(Leaving(text))}}
}

func (o *Office) Load(name, text string) importing.ImportReport {
	o.T.Helper()
	_, report, err := o.Importing.Import(context.Background(), o.By(o.Ana), File(name, text))
	if err != nil {
		o.T.Fatal(err, report.Faults)
	}
	return report
}

func (o *Office) Entries() int {
	o.T.Helper()
	n := 0
	if err := o.Store.Pool.QueryRow(context.Background(), "SELECT count(*) FROM journal").Scan(&n); err != nil {
		o.T.Fatal(err)
	}
	return n
}

// Send takes what is allocated on the order out of the house.
func (o *Office) Send(number, house string) {
	o.T.Helper()
	o.Leave(dock.ShipmentSeen{Number: o.Pack(number, house)})
}

// Leave dispatches shipments and has the carrier asked at once, as a job does.
func (o *Office) Leave(ships ...dock.ShipmentSeen) {
	o.T.Helper()
	ctx := context.Background()
	Done(o.T)(o.Dock.Dispatch(ctx, o.By(o.Flo), ships))
	if n, err := o.Dock.BookAll(ctx); err != nil || n < len(ships) {
		o.T.Fatalf("%d were booked, %v", n, err)
	}
}

func (o *Office) Promise(number string) promising.PromiseAsk {
	return promising.PromiseAsk{Orders: []command.OrderSeen{{Number: number, Seen: o.Order(number).Version}}}
}

func (o *Office) Parts(number string, n int, parts ...supply.PromisePart) promising.PromiseAsk {
	l := o.Line(number, n)
	return promising.PromiseAsk{Lines: []promising.LinePromise{{Line: l.ID, Seen: l.Version, Parts: parts}}}
}

func (o *Office) Quote(number string) sales.QuoteView {
	o.T.Helper()
	v, err := o.Sales.Quote(context.Background(), number)
	if err != nil {
		o.T.Fatal(err)
	}
	return v
}

// Quoted makes a quote for the shop: 40 bottles of glaze with a discount, and 2 kilns.
func (o *Office) Quoted(a command.Actor) string {
	o.T.Helper()
	rate := 1000
	out := Done(o.T)(o.Sales.MakeQuote(context.Background(), o.By(
		a,
	), sales.QuoteAsk{Draft: sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{
		{SKU: "GL-2040-1", Qty: 40, DiscountBP: &rate}, {SKU: "KL-070", Qty: 2, Warehouse: "DQ", How: "whole"},
	}}}))
	return out.Documents[0].Number
}

func (o *Office) CanQuote(number, verb string) supply.Can {
	o.T.Helper()
	v := o.Quote(number)
	i := slices.IndexFunc(v.Can, func(c supply.Can) bool { return c.Verb == verb })
	if i < 0 {
		o.T.Fatalf("%s says nothing of %s", number, verb)
	}
	return v.Can[i]
}

// Whole asks for the release of orders, with all that they have allocated.
func Whole(numbers ...string) floor.ReleaseAsk {
	var out floor.ReleaseAsk
	for _, n := range numbers {
		out.Orders = append(out.Orders, command.OrderSeen{Number: n})
	}
	return out
}

// Pack takes what is allocated on the order up to a packed shipment.
func (o *Office) Pack(number, house string) string {
	o.T.Helper()
	out := Done(o.T)(o.Floor.Release(
		context.Background(), o.By(o.Ana), Whole(number)))
	o.PickAll(out.Documents[0].Number)
	return o.PackPicked(number, house)
}

// PickAll finds everything on a pick list.
func (o *Office) PickAll(number string) {
	o.T.Helper()
	list, err := o.Query.PickList(context.Background(), number)
	if err != nil {
		o.T.Fatal(err)
	}
	var found []floor.Found
	for _, task := range list.Tasks {
		found = append(found, floor.Found{Task: task.ID, Qty: task.Due, Seen: task.Due})
	}
	Done(o.T)(o.Floor.Pick(context.Background(), o.By(o.Flo), found))
}

// PackPicked packs what is picked of the order into one carton, and returns its shipment.
func (o *Office) PackPicked(number, house string) string {
	o.T.Helper()
	pack := floor.PackageToBe{Kind: "carton", WeightG: 5000}
	for _, l := range o.Order(number).Lines {
		if l.At.Picked > 0 {
			pack.Contents = append(pack.Contents, floor.Content{Line: l.ID, Qty: l.At.Picked})
		}
	}
	out := Done(o.T)(o.Floor.Pack(
		context.Background(), o.By(o.Flo), floor.Packing{Order: number, Warehouse: house, Packages: []floor.PackageToBe{pack}},
	))
	return out.Documents[0].Number
}

// Owner runs SQL with the rights of the database's owner.
func (o *Office) Owner(query string) {
	o.T.Helper()
	if err := OwnerExec(o.T, o.Store, query); err != nil {
		o.T.Fatal(err)
	}
}

func OwnerExec(t testing.TB, s *store.Store, query string) error {
	t.Helper()
	_, err := dbtest.Owner(t, s).Exec(context.Background(), query)
	return err
}

// ShipTo is the first address of a customer.
func (o *Office) ShipTo(customer string) string {
	o.T.Helper()
	c, err := o.Query.Customer(context.Background(), customer)
	if err != nil {
		o.T.Fatal(err)
	}
	return c.ShipTos[0].Code
}

func (o *Office) Rehearse(ask allocation.RunAsk) allocation.RunView {
	o.T.Helper()
	v, err := o.Allocation.Rehearse(context.Background(), o.By(o.Ana), ask)
	if err != nil {
		o.T.Fatal(err)
	}
	return v
}

func (o *Office) Audited() {
	o.T.Helper()
	if diff, n, err := o.Store.Audit(context.Background()); err != nil || len(diff) > 0 || n < 1000 {
		o.T.Errorf("audit: %v, %d counts, %v", diff, n, err)
	}
}

// Total is the units at two stations and those promised, over all orders.
func (o *Office) Total() (open, allocated, promised int64) {
	o.T.Helper()
	if err := o.Store.Pool.QueryRow(
		context.Background(), `SELECT sum(open), sum(allocated), sum(promised) FROM line_count`,
	).Scan(&open, &allocated, &promised); err != nil {
		o.T.Fatal(err)
	}
	return open, allocated, promised
}

// AwaitWriting returns when a command writes to the journal, or when ended is closed.
func (o *Office) AwaitWriting(ended <-chan struct{}) {
	for {
		var writes bool
		if err := o.Store.Pool.QueryRow(context.Background(), `SELECT EXISTS (SELECT FROM pg_locks
			WHERE relation = 'journal'::regclass AND mode = 'RowExclusiveLock' AND granted
			AND database = (SELECT oid FROM pg_database WHERE datname = current_database()))`).Scan(&writes); err != nil || writes {
			return
		}
		select {
		case <-ended:
			return
		case <-time.After(2 * time.Millisecond):
		}
	}
}

// Many is a shortage of thousands of lines, a third of them promised: enough for being written as sets.
func Many(t *testing.T, lines int) *Office {
	t.Helper()
	o := New(t)
	var items, stock, orders strings.Builder
	items.WriteString("sku,name,price,cost,buyable\n")
	stock.WriteString("warehouse,sku,bin,on_hand\n")
	for i := range 40 {
		fmt.Fprintf(&items, "ZM-%d,Thing %d,2.00,1.00,no\n", i, i)
		fmt.Fprintf(&stock, "HL,ZM-%d,Z-1-%d,%d\nDQ,ZM-%d,Z-1-%d,40\n", i, i, 200+7*i, i, i)
	}
	orders.WriteString("order,customer,wanted,line,sku,warehouse,qty,tier,ship_rule\n")
	for i := range lines {
		n := i / 3
		fmt.Fprintf(
			&orders, "SO-%d,SPC,2027-03-%02d,%d,ZM-%d,HL,%d,%d,%s\n", 50000+n, 1+n%28, i%3+1, (i*17)%40, 1+i%9, 1+n%5,
			[]string{"any", "any", "lines", "whole"}[n%4],
		)
	}
	// One that nobody else wants.
	items.WriteString("ZM-99,A thing of one order,2.00,1.00,no\n")
	stock.WriteString("HL,ZM-99,Z-2-1,50\n")
	orders.WriteString("SO-99999,SPC,2027-03-02,1,ZM-99,HL,5,1,any\n")
	o.Load("items.csv", items.String())
	o.Load("stock.csv", stock.String())
	o.Load("orders.csv", orders.String())
	if _, err := o.Store.Pool.Exec(context.Background(), `
		INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
		SELECT (SELECT max(id) FROM command), l.id, l.order_id, l.item_id, '[]',
			jsonb_build_array(jsonb_build_object('warehouse', l.warehouse_id, 'day', '2027-03-15', 'qty', 1)), 0, 1, 'promised'
		FROM order_line l JOIN item i ON i.id = l.item_id WHERE i.sku LIKE 'ZM-%' AND l.id % 3 = 0`); err != nil {
		t.Fatal(err)
	}
	return o
}

// Shortage is an item that cannot be bought, with 20 on hand at HL and 6 at DQ, that four orders want.
func Shortage(t *testing.T) *Office {
	t.Helper()
	o := New(t)
	o.Load(
		"items.csv", "sku,name,price,cost,buyable,lead_days\nZB-1,A scarce thing,2.00,1.00,no,0\nZB-2,A thing beside it,5.00,1.00,no,0\n",
	)
	o.Load("stock.csv", "warehouse,sku,bin,on_hand\nHL,ZB-1,A-1-1,20\nDQ,ZB-1,B-1-1,6\nHL,ZB-2,A-1-2,4\n")
	o.Load("inbound.csv", "ref,sku,warehouse,due,qty\nPB-1,ZB-1,HL,2027-03-10,30\n")
	o.Load("orders.csv", "order,customer,wanted,line,sku,warehouse,qty,tier,ship_rule,channel,entered\n"+
		"SO-6001,SPC,2027-03-03,1,ZB-1,HL,12,3,any,web,2027-02-01\n"+
		"SO-6002,SPC,2027-03-02,1,ZB-1,HL,15,1,any,fair,2027-02-20\n"+
		"SO-6003,SPC,2027-03-05,1,ZB-1,HL,8,2,whole,web,2027-02-10\n"+
		"SO-6003,SPC,2027-03-05,2,ZB-2,HL,3,2,whole,web,2027-02-10\n"+
		"SO-6004,SPC,2027-04-20,1,ZB-1,HL,2,4,any,web,2027-02-12\n")
	return o
}

func Second[T any](_ T, err error) error { return err }

// Leaving is a file of orders of which each leaves on the day on which it is wanted, unless the file says otherwise; other
// files as they are.
func Leaving(text string) string {
	rows := strings.Split(strings.TrimRight(text, "\n"), "\n")
	wanted := slices.Index(strings.Split(rows[0], ","), "wanted")
	if wanted < 0 || strings.Contains(rows[0], "ship_by") {
		return text
	}
	rows[0] += ",ship_by"
	for i, row := range rows[1:] {
		rows[i+1] += "," + strings.Split(row, ",")[wanted]
	}
	return strings.Join(rows, "\n") + "\n"
}

// Parts writes what is to be promised: units, warehouse, month and day.
func Parts(ps []supply.PromisePart) string {
	var said []string
	for _, p := range ps {
		said = append(said, fmt.Sprintf("%d %s %s", p.Qty, p.Warehouse, p.Day[5:]))
	}
	return strings.Join(said, ", ")
}

// Promises writes the promises that stand on a line: month and day, warehouse, units.
func Promises(l supply.LineView) string {
	var s []string
	for _, p := range l.Promises {
		s = append(s, fmt.Sprintf("%s %s %d", p.Day[5:], p.Warehouse, p.Qty))
	}
	return strings.Join(s, ", ")
}

// ShortageOrders is the orders of a Shortage.
var ShortageOrders = allocation.RunScope{Orders: []string{"SO-6001", "SO-6002", "SO-6003", "SO-6004"}}

// Texts is what messages say, in English.
func Texts(ms []words.Message) []string {
	out := make([]string, len(ms))
	for i, m := range ms {
		out[i] = m.String()
	}
	return out
}
