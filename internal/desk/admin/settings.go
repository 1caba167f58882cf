package admin

import (
	"context"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// HouseView is a warehouse and when it works.
type HouseView struct {
	Code         string       `json:"code"`
	Name         string       `json:"name"`
	Workdays     []int        `json:"workdays" doc:"Days of the week on which it works, Sunday is 0"`
	CutOff       string       `json:"cut_off" doc:"Time until which an order still counts as the day's, as 15:00; empty for none"`
	HandlingDays int          `json:"handling_days" doc:"Working days from the order to the lorry"`
	Timezone     string       `json:"timezone" doc:"In which its days begin, as Europe/London; empty for the firm's"`
	Ready        string       `json:"ready" format:"date" doc:"The day on which what is ordered now can leave"`
	Closed       []ClosedView `json:"closed" doc:"Days from today on on which it is closed"`
	Floor        FloorView    `json:"floor"`
}

// ClosedView is a day on which a warehouse is closed.
type ClosedView struct {
	Day  string `json:"day" format:"date"`
	Name string `json:"name"`
}

// ZoneView is how long services take to a zone.
type ZoneView struct {
	Zone    string         `json:"zone"`
	Places  []string       `json:"places" doc:"The countries and postcodes that lie in it"`
	Transit map[string]int `json:"transit" doc:"Working days, by service"`
}

// SettingsView is what the house rules are.
type SettingsView struct {
	Houses     []HouseView          `json:"houses"`
	Services   []supply.ServiceView `json:"services"`
	CutOffs    map[string]string    `json:"cut_offs" doc:"When carriers come, by service; absent if as the warehouse's own cut-off"`
	Zones      []ZoneView           `json:"zones"`
	QuoteLimit int64                `json:"quote_limit_minor" doc:"A quote worth more needs a manager's approval"`
	Currency   string               `json:"currency"`
	Company    string               `json:"company_prefix" doc:"The firm's GS1 company prefix, with which the codes on labels begin"`
	Prefixes   []PrefixView         `json:"prefixes" doc:"What numbers of documents begin with"`
	Packages   []supply.PackageKind `json:"packages" doc:"What goods are packed into"`
}

// PrefixView is what the numbers of a kind of document begin with.
type PrefixView struct {
	Kind   string `json:"kind" enum:"order,quote,request to buy,pick list,shipment,package"`
	Prefix string `json:"prefix" maxLength:"8"`
}

// Settings returns the rules of the house.
func (d *Desk) Settings(ctx context.Context) (SettingsView, error) {
	r := d.Store.Read(ctx)
	out := SettingsView{Houses: []HouseView{}, Services: []supply.ServiceView{}, Zones: []ZoneView{}, Currency: store.FirmCurrency}
	houses, err := r.Warehouses()
	if err != nil {
		return out, err
	}
	docks, err := d.supply.Docks(r, houses)
	if err != nil {
		return out, err
	}
	closed, err := r.ClosedDays(d.Today().String())
	if err != nil {
		return out, err
	}
	for _, h := range houses {
		v := HouseView{
			Code: h.Code, Name: h.Name, Workdays: []int{}, CutOff: supply.TimeOfDay(h.CutOff), HandlingDays: h.HandlingDays,
			Timezone: h.Timezone, Ready: d.supply.ReadyOn(docks[h.ID]).String(), Closed: []ClosedView{},
			Floor: floorOf(h),
		}
		for _, w := range supply.Weekdays(h.Workdays) {
			v.Workdays = append(v.Workdays, int(w))
		}
		for _, c := range closed {
			if c.WarehouseID == h.ID {
				v.Closed = append(v.Closed, ClosedView{c.Day, c.Name})
			}
		}
		out.Houses = append(out.Houses, v)
	}
	network, err := d.supply.Network(r)
	if err != nil {
		return out, err
	}
	out.Services, out.CutOffs = supply.ServiceViews(network.To("", "")), map[string]string{}
	services, err := r.Services()
	if err != nil {
		return out, err
	}
	for _, s := range services {
		if s.CutOff > 0 {
			out.CutOffs[s.Code] = supply.TimeOfDay(s.CutOff)
		}
	}
	rules, transit, err := r.Zones()
	if err != nil {
		return out, err
	}
	for _, z := range rules {
		place := z.Country
		if z.Prefix != "" {
			place += " " + z.Prefix + "…"
		}
		i := slices.IndexFunc(out.Zones, func(v ZoneView) bool { return v.Zone == z.Zone })
		if i < 0 {
			i = len(out.Zones)
			out.Zones = append(out.Zones, ZoneView{Zone: z.Zone, Places: []string{}, Transit: map[string]int{}})
		}
		out.Zones[i].Places = append(out.Zones[i].Places, place)
	}
	for _, x := range transit {
		for i := range out.Zones {
			if out.Zones[i].Zone == x.Zone {
				out.Zones[i].Transit[x.Service] = x.Days
			}
		}
	}
	kinds, err := r.PackageKinds()
	if err != nil {
		return out, err
	}
	out.Packages = supply.PackageKinds(kinds)
	if out.Company, err = r.CompanyPrefix(); err != nil {
		return out, err
	}
	for _, n := range store.AllNumbered {
		prefix, err := r.PrefixOf(n)
		if err != nil {
			return out, err
		}
		out.Prefixes = append(out.Prefixes, PrefixView{n.Kind, prefix})
	}
	out.QuoteLimit, err = r.QuoteLimit()
	return out, err
}

// readCutOff reads a time of day as minutes after midnight; empty is 0.
func readCutOff(s string) (int, error) {
	if s == "" {
		return 0, nil
	}
	t, err := time.Parse("15:04", s)
	if err != nil || t.Hour()+t.Minute() == 0 {
		return 0, command.Invalid("%q is not a time of the day: as 15:00.", s)
	}
	return t.Hour()*60 + t.Minute(), nil
}

// HouseAsk says when a warehouse works.
type HouseAsk struct {
	Warehouse    string `json:"warehouse" maxLength:"12"`
	Workdays     []int  `json:"workdays" minItems:"1" maxItems:"7" doc:"Days of the week, Sunday is 0"`
	CutOff       string `json:"cut_off" maxLength:"5" doc:"As 15:00; empty for none"`
	HandlingDays int    `json:"handling_days" minimum:"0" maximum:"30"`
	Timezone     string `json:"timezone,omitempty" maxLength:"60" doc:"In which its days begin, as Europe/London; the firm's if empty"`
}

// SetHouse says when a warehouse works. Promises that stand are not touched by it.
//
// It locks nothing: the last one counts. It refuses a warehouse without a working day, and times and zones that there are not.
func (d *Desk) SetHouse(ctx context.Context, call command.Call, ask HouseAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		h, err := w.Warehouse(ask.Warehouse)
		if err != nil {
			return err
		}
		h.Workdays, h.HandlingDays = 0, ask.HandlingDays
		for _, day := range ask.Workdays {
			if day < 0 || day > 6 {
				return command.Invalid("%d is not a day of the week: 0 for Sunday to 6 for Saturday.", day)
			}
			h.Workdays |= 1 << day
		}
		if h.Workdays == 0 {
			return command.Invalid("%s has to work on at least one day of the week.", h.Code)
		}
		if h.HandlingDays < 0 || h.HandlingDays > 30 {
			return command.Invalid("Handling takes from 0 to 30 working days.")
		}
		if h.CutOff, err = readCutOff(ask.CutOff); err != nil {
			return err
		}
		h.Timezone = strings.TrimSpace(ask.Timezone)
		if zone, err := time.LoadLocation(h.Timezone); err != nil || zone == time.Local {
			return command.Invalid("There is no time zone %q. Give one such as Europe/London, or none for the firm's.", h.Timezone)
		}
		w.Say("%s works as you said from now on. Promises that stand are as they were.", h.Code)
		return w.Tx.SetHouse(h)
	})
}

// ClosedAsk closes a warehouse on the whole days of an iCalendar file, or closes or opens it
// on one day.
type ClosedAsk struct {
	Warehouse string `json:"warehouse" maxLength:"12"`
	File      string `json:"file,omitempty" maxLength:"1000000" doc:"An iCalendar file (RFC 5545)"`
	Day       string `json:"day,omitempty" format:"date"`
	Name      string `json:"name,omitempty" maxLength:"120"`
	Open      bool   `json:"open,omitempty" doc:"Open it on the day again"`
}

// CloseDays closes a warehouse on days, from today on and at most three years ahead.
//
// It locks nothing. It refuses days that have passed, and opening a day that is not closed.
func (d *Desk) CloseDays(ctx context.Context, call command.Call, ask ClosedAsk) (command.Outcome, error) {
	if err := command.VerbSettings.Allowed(call.Actor); err != nil {
		return command.Outcome{}, err
	}
	if (ask.File == "") == (ask.Day == "") {
		return command.Outcome{}, command.Invalid("Give an iCalendar file, or a day.")
	}
	today := d.Today()
	var closed []exchange.ClosedDay
	var timed int
	if ask.File != "" { // read before anything is locked
		var err error
		if closed, timed, err = exchange.ReadClosedDays([]byte(ask.File), today, today+3*366); err != nil {
			return command.Outcome{}, command.Invalid("Nothing was closed: %s.", err)
		}
	}
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		h, err := w.Warehouse(ask.Warehouse)
		if err != nil {
			return err
		}
		if ask.File != "" {
			if len(closed) == 0 {
				return command.Conflict("Nothing was closed: the file has no whole day from today on.")
			}
			rows := make([]store.ClosedDay, len(closed))
			for i, c := range closed {
				rows[i] = store.ClosedDay{Day: c.Day.String(), Name: c.Name}
			}
			w.Say("%s is closed on %s of the file, the first %s.", h.Code, words.Count(int64(len(rows)), "day"), words.Day(closed[0].Day))
			if timed > 0 {
				w.Also(words.Say("Left out: %s with a time of day.", words.Count(int64(timed), "event")))
			}
			return w.Tx.CloseDays(h.ID, rows)
		}
		day, err := days.Parse(ask.Day)
		if err != nil {
			return command.Invalid("%s.", err)
		}
		if ask.Open {
			was, err := w.Tx.OpenDay(h.ID, ask.Day)
			if err == nil && !was {
				return command.Conflict("%s is not closed on %s.", h.Code, words.Day(day))
			}
			w.Say("%s is open on %s again.", h.Code, words.Day(day))
			return err
		}
		if day < today {
			return command.Invalid("%s has passed.", words.Day(day))
		}
		w.Say("%s is closed on %s.", h.Code, words.Day(day))
		return w.Tx.CloseDays(h.ID, []store.ClosedDay{{Day: ask.Day, Name: ask.Name}})
	})
}

// LimitAsk sets above which value a quote needs a manager's approval.
type LimitAsk struct {
	Minor int64 `json:"minor" minimum:"0" maximum:"100000000000"`
}

// SetQuoteLimit sets above which value a quote needs a manager's approval.
//
// It locks nothing: the last one counts. It refuses a limit below nothing.
func (d *Desk) SetQuoteLimit(ctx context.Context, call command.Call, ask LimitAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		if ask.Minor < 0 {
			return command.Invalid("The limit cannot be negative.")
		}
		w.Say("Quotes above %s need a manager's approval from now on.", words.Money(ask.Minor, store.FirmCurrency))
		return w.Tx.Remember("quote_limit_minor", strconv.FormatInt(ask.Minor, 10))
	})
}

// CompanyAsk sets the firm's GS1 company prefix.
type CompanyAsk struct {
	Prefix string `json:"prefix" minLength:"4" maxLength:"12" doc:"4 to 12 digits, as GS1 gave it to the firm"`
}

// SetCompanyPrefix sets the GS1 company prefix with which the codes on labels begin from now on.
//
// It locks nothing: the last one counts. It refuses what is no prefix.
func (d *Desk) SetCompanyPrefix(ctx context.Context, call command.Call, ask CompanyAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		code, err := shipping.SSCC(ask.Prefix, 1)
		if err != nil {
			return command.Invalid("“%s” is no company prefix: type the 4 to 12 digits that GS1 gave you.", ask.Prefix)
		}
		w.Say("The codes on labels begin as %s from now on.", code[:1+len(ask.Prefix)])
		return w.Tx.SetCompanyPrefix(ask.Prefix)
	})
}

// PrefixAsk sets what the numbers of some kinds of documents begin with.
type PrefixAsk struct {
	Prefixes []PrefixView `json:"prefixes" minItems:"1" maxItems:"20"`
}

var prefixed = regexp.MustCompile(`^[A-Z][A-Z0-9]{0,5}[-/]?$`)

// SetPrefixes sets what numbers of documents begin with from now on; what has a number keeps it.
//
// It locks nothing: the last one counts. It refuses what is no prefix, and one that two kinds would have.
func (d *Desk) SetPrefixes(ctx context.Context, call command.Call, ask PrefixAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		said := map[string]string{}
		for _, p := range ask.Prefixes {
			if !prefixed.MatchString(p.Prefix) {
				return command.Invalid("“%s” cannot begin a number: type up to 6 capital letters and digits, and a hyphen, such as SO-.", p.Prefix)
			}
			said[p.Kind] = p.Prefix
		}
		has := map[string]string{}
		for _, n := range store.AllNumbered {
			prefix, err := w.Tx.PrefixOf(n)
			if err != nil {
				return err
			}
			if set, changed := said[n.Kind]; changed {
				prefix = set
				if err := w.Tx.SetPrefix(n, set); err != nil {
					return err
				}
				delete(said, n.Kind)
			}
			if other, twice := has[prefix]; twice {
				return command.Invalid("Numbers of the %s and of the %s would both begin with %s. Give each its own.", other, n.Kind, prefix)
			}
			has[prefix] = n.Kind
		}
		for _, p := range ask.Prefixes {
			if _, unknown := said[p.Kind]; unknown {
				return command.Invalid("A %s has no number from here.", p.Kind)
			}
		}
		w.Say("New numbers begin as you said; those that are given stay.")
		return nil
	})
}
