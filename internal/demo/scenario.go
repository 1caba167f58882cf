package demo

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"journeyman/core/days"
)

// fate is how far an order has come by today.
type fate int

const (
	open      fate = iota
	partly         // some lines allocated
	allocated      // all that it wants
	released       // on a pick list
	picked         // waiting to be packed
	packed         // at the dock
	shipped        // under way
	delivered      // finished
)

type line struct {
	item   *item
	house  string
	qty    int64
	give   int64 // how many are allocated in the end
	price  int64 // -1: the item's
	cost   int64 // -1: the item's
	shipBy days.Day
}

type order struct {
	number   string
	cust     *customer
	ship     string
	channel  string
	ref      string
	rule     string
	service  string
	urgency  int
	entered  days.Day
	wanted   days.Day
	goes     days.Day // not before this day; 0 for any
	note     string
	hold     string
	holdNote string
	lines    []line
	fate     fate
	short    bool     // fewer are found when it is picked
	promise  bool     // what is open is promised when it has been allocated from
	moved    days.Day // the day of its last step
}

type inbound struct {
	ref, house, kind, supplier string
	item                       *item
	due                        days.Day
	qty                        int64
	comes                      days.Day // received on this day; 0 if not yet
}

// scenario is the whole demo before anything is written.
type scenario struct {
	today     days.Day
	owes      *customer // is on hold
	items     []item
	custs     []customer
	orders    []*order
	inbound   []inbound
	start     map[[2]string]int64 // stock at the beginning, by sku and warehouse
	held      map[[2]string]int64
	bySKU     map[string]*item
	r         *rand.Rand
	next      int
	contested map[string]bool
}

// binless is an item that lies in the house, nobody knows where.
const binless = "KF-450"

// Seed is the seed of the demo: the same book every day, moved to today.
const Seed = 20270301

func newScenario(today days.Day) *scenario {
	r := rand.New(rand.NewPCG(Seed, 1))
	s := &scenario{
		today: today, items: catalogue(r), custs: customers(r), start: map[[2]string]int64{}, held: map[[2]string]int64{},
		bySKU: map[string]*item{}, r: r, next: 10401, contested: map[string]bool{},
	}
	for i := range s.items {
		s.bySKU[s.items[i].sku] = &s.items[i]
	}
	for _, sku := range []string{
		"GL-2040-1", "GL-2075-5", "CB-118", "KL-070", "KF-320", "TL-014", "GL-2110-1", "CB-110", "GL-2180-1", "GL-2250-5", "WH-15",
		"KF-430", "SG-215", "CB-126",
	} {
		s.contested[sku] = true
	}
	s.ordinary()
	for i, o := range s.orders {
		o.promise = (o.fate == open || o.fate == partly) && i%5 < 3
	}
	s.stories()
	slices.SortStableFunc(s.orders, func(a, b *order) int { return int(a.entered - b.entered) })
	for _, o := range s.orders {
		o.number = fmt.Sprintf("SO-%d", s.next)
		s.next++
	}
	s.stock()
	s.arrivals()
	return s
}

// workday moves d on to the next day that is worked.
func workday(d days.Day) days.Day {
	for d.Weekday() == time.Saturday || d.Weekday() == time.Sunday {
		d++
	}
	return d
}

// back is the n-th working day before d.
func back(d days.Day, n int) days.Day {
	for n > 0 {
		d--
		if w := d.Weekday(); w != time.Saturday && w != time.Sunday {
			n--
		}
	}
	return d
}

func forth(d days.Day, n int) days.Day {
	for n > 0 {
		d = workday(d + 1)
		n--
	}
	return d
}

// ordinary orders fill every station.
func (s *scenario) ordinary() {
	for _, g := range []struct {
		fate  fate
		n     int
		least int // working days ago when they were entered, at least
		span  int
	}{
		{delivered, 206, 5, 17},
		{shipped, 24, 3, 2},
		{packed, 12, 2, 2},
		{picked, 11, 2, 2},
		{released, 24, 1, 3},
		{allocated, 42, 1, 4},
		{partly, 22, 1, 6},
		{open, 24, 0, 3},
	} {
		for range g.n {
			s.orders = append(s.orders, s.random(g.fate, back(s.today, g.least+s.r.IntN(g.span))))
		}
	}
}

func (s *scenario) random(f fate, entered days.Day) *order {
	c := &s.custs[1+s.r.IntN(len(s.custs)-1)]
	if s.r.IntN(5) == 0 {
		c = &s.custs[0]
	}
	o := s.order(c, f, entered)
	n := 1 + s.r.IntN(5)
	if c.code == "WEB" {
		n = 1 + s.r.IntN(2)
	}
	for len(o.lines) < n {
		it := &s.items[s.r.IntN(len(s.items))]
		if slices.ContainsFunc(o.lines, func(l line) bool { return l.item == it }) || (s.contested[it.sku] && f != delivered) ||
			it.sku == binless {
			continue
		}
		s.line(o, it, s.amount(it, c))
	}
	switch f {
	case open:
		for i := range o.lines {
			o.lines[i].give = 0
		}
	case partly:
		// One line is short, on an item that others want too.
		for {
			it := s.bySKU[s.pick(
				"GL-2040-1", "GL-2075-5", "CB-118", "KF-320", "TL-014", "GL-2110-1", "GL-2180-1", "GL-2250-5", "KF-430", "SG-215", "CB-126",
			)]
			if it.sku == "GL-2040-1" || slices.ContainsFunc(o.lines, func(l line) bool { return l.item == it }) {
				continue
			}
			s.line(o, it, s.amount(it, c))
			break
		}
		last := &o.lines[len(o.lines)-1]
		last.give = last.qty / 3 / last.item.multiple * last.item.multiple
		if o.rule == "whole" {
			o.rule = "any"
		}
	}
	o.sendByWeight()
	return o
}

// sendByWeight has what is heavy go by pallet and what is light by parcel, whatever the customer's usual service.
func (o *order) sendByWeight() {
	grams := int64(0)
	for _, l := range o.lines {
		grams += l.qty * l.item.weightG
	}
	switch {
	case grams > 30_000:
		o.service = "pallet"
	case grams < 20_000 && o.service == "pallet":
		o.service = "parcel"
	}
	for i := range o.lines {
		o.lines[i].shipBy = o.leaves()
	}
}

// leaves is the day on which an order has to leave.
func (o *order) leaves() days.Day {
	transit := map[string]int{"parcel": 2, "pallet": 3, "overnight": 1, "counter": 0}[o.service]
	return max(back(o.wanted, transit), o.entered)
}

func (s *scenario) pick(of ...string) string { return of[s.r.IntN(len(of))] }

func (s *scenario) order(c *customer, f fate, entered days.Day) *order {
	o := &order{
		cust: c, ship: c.ships[0].code, channel: s.pick("telephone", "representative", "mail"), rule: c.rule, service: c.service,
		urgency: 3, entered: entered, fate: f,
	}
	if c.code == "WEB" {
		o.channel, o.ref = "web", fmt.Sprintf("W%06d", 100_000+s.r.IntN(900_000))
	} else if s.r.IntN(3) > 0 {
		o.ref = fmt.Sprintf("PO/%d", 1000+s.r.IntN(9000))
	}
	o.wanted = forth(entered, 4+s.r.IntN(5))
	if f == open || f == allocated || f == partly {
		o.wanted = forth(s.today, 2+s.r.IntN(9))
		if s.r.IntN(7) == 0 {
			o.wanted = back(s.today, 1+s.r.IntN(2))
		}
	}
	if s.r.IntN(12) == 0 {
		o.urgency = 1 + s.r.IntN(2)
	}
	return o
}

func (s *scenario) line(o *order, it *item, qty int64) *line {
	o.lines = append(o.lines, line{item: it, house: it.house, qty: qty, give: qty, price: -1, cost: -1, shipBy: o.leaves()})
	return &o.lines[len(o.lines)-1]
}

func (s *scenario) amount(it *item, c *customer) int64 {
	switch {
	case it.big:
		return 1 + int64(s.r.IntN(2))
	case c.code == "WEB":
		return max(1, it.multiple) * int64(1+s.r.IntN(3))
	case strings.HasPrefix(it.sku, "CB"):
		return it.multiple * int64(2+s.r.IntN(20))
	}
	return it.multiple * int64(2+s.r.IntN(30))
}

// stories are the situations that a coordinator meets (SCENARIO of the project's papers).
func (s *scenario) stories() {
	s.shortStories()
	s.promisedStories()
	s.dockStories()
	s.oddStories()
}

func (s *scenario) add(o *order) *order {
	s.orders = append(s.orders, o)
	return o
}

// take adds a line of which so many units are allocated.
func (s *scenario) take(o *order, sku string, qty, give int64) *line {
	l := s.line(o, s.bySKU[sku], qty)
	l.give = give
	return l
}

// shortStories are of what several want and there is too little of.
func (s *scenario) shortStories() {
	// 1. Six orders compete for a glaze; 265 are short.
	for _, w := range []struct {
		who       string
		qty, give int64
		days      int
	}{
		{"Aldersyke College", 60, 24, 1},
		{"Brackenfield Pottery Shop", 24, 18, 2},
		{"Tidewrack Potters' Co-op", 127, 0, 3},
		{"Saltpan Potters' Co-op", 96, 36, 2},
		{"Ovenbird Studio", 60, 24, 4},
		{"Web shop", 30, 12, 5},
	} {
		c := s.find(w.who)
		o := s.add(s.order(c, partly, back(s.today, 3)))
		o.wanted, o.rule = forth(s.today, w.days+2), "any"
		s.take(o, "GL-2040-1", w.qty, w.give)
		if w.who == "Aldersyke College" {
			c.tier = 1
			s.take(o, "TL-020", 12, 12)
			s.take(o, "KF-310", 6, 6)
		}
	}
	s.held[[2]string{"GL-2040-1", "HL"}] = 10
	s.start[[2]string{"GL-2040-1", "HL"}] = 18 // free, but nobody has dared to choose for whom
	// 2. An order that goes only whole waits for one line of five.
	o := s.add(s.order(s.find("Millrace College"), partly, back(s.today, 4)))
	o.rule, o.wanted = "whole", forth(s.today, 3)
	for _, sku := range []string{"TL-026", "TL-032", "KF-340", "GL-2145-1"} {
		s.take(o, sku, 10, 10)
	}
	s.take(o, "KF-320", 8, 3)
	o.note = "Start of term: one delivery, complete, before the first lesson."
}

// promisedStories are of what is promised for a day.
func (s *scenario) promisedStories() {
	// 3. Three smaller orders are promised clay that a school would like sooner: of the 144 that are free
	// 48 are promised for a week from now, so 96 can be had before.
	for i, w := range []struct {
		who  string
		qty  int64
		days int
	}{{"Saltpan Potters' Co-op", 28, 7}, {"Ovenbird Studio", 20, 7}, {"Tidewrack Potters' Co-op", 60, 9}} {
		o := s.add(s.order(s.find(w.who), open, back(s.today, 2+i%2)))
		o.service, o.rule, o.promise = "pallet", "any", true
		o.wanted = forth(s.today, w.days+3)
		s.take(o, "CB-110", w.qty, 0)
	}
	s.start[[2]string{"CB-110", "HL"}] = 144
	// 4. Nine orders wait for an arrival that is overdue.
	for i := range 9 {
		o := s.add(s.order(&s.custs[5+i*7], open, back(s.today, 6+i%3)))
		o.wanted, o.rule, o.promise = forth(s.today, i%4), "any", true
		s.take(o, "CB-118", 8+int64(i)*4, 0)
	}
}

// dockStories are of what stands at the dock, was cancelled on its way there, or has left it.
func (s *scenario) dockStories() {
	// 5. Three orders of one customer to one address at the dock, and a fourth to another.
	for i := range 4 {
		c := s.find("Emberly Pottery Shop")
		o := s.add(s.order(c, packed, back(s.today, 2)))
		o.service, o.rule = "pallet", "any"
		if i == 3 {
			c.ships = append(c.ships[:1:1], shipTo{"YARD", "Emberly Pottery Shop yard", "3 Cinder Lane", "Emberly", "EM3 7YD"})
			o.ship = "YARD"
		}
		s.take(o, []string{"CB-114", "GL-2215-5", "KF-350", "CB-114"}[i], []int64{40, 6, 12, 24}[i], []int64{40, 6, 12, 24}[i])
	}
	// 6. Cancelled on the floor, and cancelled when packed.
	for i, f := range []fate{released, packed} {
		o := s.add(s.order(&s.custs[20+i*9], f, back(s.today, 2)))
		o.rule = "any"
		s.take(o, "GL-2285-1", 18, 18)
		s.take(o, "TL-041", 4, 4)
		o.hold, o.holdNote = "late coordinator", "The customer has cancelled: stop it before it leaves."
	}
	// 7. Sent in full long ago and never reported delivered; and a line with no supply due.
	o := s.add(s.order(&s.custs[33], shipped, back(s.today, 14)))
	o.moved = back(s.today, 12)
	s.take(o, "SG-230", 3, 3)
	o = s.add(s.order(&s.custs[41], open, back(s.today, 5)))
	o.wanted, o.rule = forth(s.today, 1), "any"
	s.take(o, "KL-070", 2, 0)
}

// oddStories are of orders with which something is amiss, and of what is new this morning.
func (s *scenario) oddStories() {
	// 8. On credit hold with everything allocated.
	o := s.add(s.order(s.find("Gorsedale Pottery Shop"), allocated, back(s.today, 3)))
	o.wanted, o.rule, o.hold, o.holdNote = forth(s.today, 1), "any", "credit", "£1,240 over the limit; accounts have written."
	s.take(o, "GL-2320-5", 10, 10)
	s.take(o, "TL-050", 6, 6)
	// 9. An order whose lines stand in two warehouses.
	o = s.add(s.order(s.find("Larkrigg Potters' Co-op"), allocated, back(s.today, 2)))
	o.wanted, o.rule = forth(s.today, 2), "any"
	s.take(o, "KL-100", 1, 1)
	s.take(o, "KF-330", 4, 4)
	s.take(o, "CB-110-25", 20, 20)
	// 10. Sold with no cost on record.
	o = s.add(s.order(s.find("Netherclay Studio"), allocated, back(s.today, 1)))
	o.wanted, o.rule = forth(s.today, 2), "any"
	s.take(o, "GL-2355-1", 12, 12).cost = 0
	// A kiln shelf that is in the house, in no bin.
	o = s.add(s.order(s.find("Eskerby Studio"), allocated, back(s.today, 1)))
	o.wanted, o.rule = forth(s.today, 1), "any"
	s.take(o, binless, 2, 2)
	s.bySKU[binless].bin = ""
	// 14. A short pick this morning: eight expected, five found, one of them broken.
	o = s.add(s.order(s.find("Coldwharf Studio"), released, back(s.today, 1)))
	o.wanted, o.rule, o.short = forth(s.today, 1), "any", true
	s.take(o, "GL-2600-5", 8, 8)
	// A fair opens its gates on a day: the stand's stock must not come before.
	o = s.add(s.order(s.find("Fellgarth Pottery Shop"), allocated, back(s.today, 2)))
	o.wanted, o.goes, o.rule, o.note = forth(s.today, 9), forth(s.today, 4), "any", "For the fair: the stand cannot take it sooner."
	s.take(o, "GL-2110-5", 4, 4)
	// A customer who has not paid: all its orders are on hold.
	s.owes = s.find("Ruddleby Studio")
	o = s.add(s.order(s.owes, allocated, back(s.today, 1)))
	o.wanted, o.rule = forth(s.today, 2), "any"
	s.take(o, "TL-041", 6, 6)
	// Two coordinators' favourite: fresh this morning, all of it free.
	for i := range 6 {
		o := s.add(s.order(&s.custs[12+i*5], open, s.today))
		o.wanted, o.rule = forth(s.today, 2+i%3), "any"
		s.take(o, []string{"GL-2390-1", "TL-038", "KF-360", "CB-122", "GL-2425-5", "SG-240"}[i], []int64{24, 6, 20, 16, 4, 10}[i], 0)
	}
}

func (s *scenario) find(name string) *customer {
	i := slices.IndexFunc(s.custs, func(c customer) bool { return c.name == name })
	if i < 0 {
		// Not every town has every sort: the first customer of that town will do.
		town, _, _ := strings.Cut(name, " ")
		i = slices.IndexFunc(s.custs, func(c customer) bool { return strings.HasPrefix(c.name, town) })
	}
	return &s.custs[max(i, 0)]
}

// stock is what the shelves must have held at the beginning for all that to be possible.
func (s *scenario) stock() {
	for _, o := range s.orders {
		for _, l := range o.lines {
			s.start[[2]string{l.item.sku, l.house}] += l.give
		}
	}
	for i := range s.items {
		it := &s.items[i]
		k := [2]string{it.sku, it.house}
		s.start[k] += s.held[k]
		switch {
		case s.contested[it.sku]:
		case it.big:
			s.start[k] += int64(s.r.IntN(4))
		default:
			s.start[k] += it.multiple * int64(10+s.r.IntN(60))
		}
		// Clay also stands at the other house, small goods at the counter.
		if strings.HasPrefix(it.sku, "CB") && it.house == "HL" {
			s.start[[2]string{it.sku, "DQ"}] = 80
		}
	}
}

// arrivals are on their way, lumpy and late.
func (s *scenario) arrivals() {
	add := func(ref, sku string, due days.Day, qty int64, supplier string) {
		it := s.bySKU[sku]
		s.inbound = append(
			s.inbound, inbound{ref: ref, house: it.house, kind: "purchase", supplier: supplier, item: it, due: due, qty: qty},
		)
	}
	add("PO-733", "GL-2040-1", forth(s.today, 7), 200, "Harebell Glaze Works")
	add("PO-741", "GL-2040-1", forth(s.today, 15), 300, "Harebell Glaze Works")
	add("PO-688", "CB-118", back(s.today, 3), 240, "Marlpit Clay Company")
	add("PO-702", "CB-110", forth(s.today, 8), 120, "Marlpit Clay Company")
	add("PO-735", "KF-320", forth(s.today, 5), 60, "Refractory Lane")
	add("PO-736", "GL-2075-5", forth(s.today, 4), 30, "Harebell Glaze Works")
	add("PO-738", "TL-014", forth(s.today, 3), 100, "Withy Tool Makers")
	add("PO-739", "KF-430", s.today, 40, "Refractory Lane")
	add("PO-742", "GL-2110-1", forth(s.today, 10), 120, "Harebell Glaze Works")
	add("PO-744", "CB-126", forth(s.today, 2), 160, "Marlpit Clay Company")
	add("PO-745", "GL-2250-5", forth(s.today, 12), 24, "Harebell Glaze Works")
	for i := range 14 {
		it := &s.items[(i*11+7)%len(s.items)]
		if !s.contested[it.sku] && it.buyable {
			add(
				fmt.Sprintf("PO-%d", 750+i), it.sku, forth(s.today, 1+i), it.multiple*int64(12+i*4),
				s.pick("Marlpit Clay Company", "Withy Tool Makers", "Refractory Lane"),
			)
		}
	}
	for i := range 8 { // what has come in since the beginning
		it := &s.items[(i*17+3)%len(s.items)]
		day := back(s.today, 3+i*2)
		s.inbound = append(s.inbound, inbound{
			ref: fmt.Sprintf("PO-%d", 660+i), house: it.house, kind: "purchase", supplier: "Marlpit Clay Company", item: it, due: day,
			qty: it.multiple * 20, comes: day,
		})
	}
}
