package demo

import (
	"fmt"
	"strings"

	"journeyman/core/days"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
)

// houseRules says when the houses work: the counter on Saturdays, too; and when they are closed.
func (p *player) houseRules() error {
	for _, h := range []admin.HouseAsk{
		{Warehouse: "DQ", Workdays: []int{1, 2, 3, 4, 5}, CutOff: "", HandlingDays: 0},
		{Warehouse: "EG", Workdays: []int{1, 2, 3, 4, 5, 6}, CutOff: "16:30", HandlingDays: 0},
	} {
		if _, err := p.d.Admin.SetHouse(p.ctx, p.call(command.Manager, ""), h); err != nil {
			return err
		}
	}
	for _, s := range [][2]string{{"pallet", "14:00"}, {"parcel", "16:00"}, {"overnight", "17:30"}} {
		if _, err := p.d.Admin.SetService(p.ctx, p.call(command.Manager, ""), admin.ServiceAsk{Service: s[0], CutOff: s[1]}); err != nil {
			return err
		}
	}
	for _, v := range [][2]string{
		{"Tier 1, today", `{"only":["tier=1","ship_by<=today"]}`},
		{"Overdue", `{"only":["ship_by<=today-1"]}`},
		{"Completes its order", `{"only":["completes=yes"],"group":"order"}`},
	} {
		if _, err := p.d.Admin.KeepView(
			p.ctx, p.call(command.Coordinator, ""), admin.ViewAsk{List: "release", Name: v[0], ForAll: true, Search: v[1]},
		); err != nil {
			return err
		}
	}
	// Far enough ahead to change nothing of what is told here.
	for _, house := range []string{"HL", "DQ", "EG"} {
		if _, err := p.d.Admin.CloseDays(
			p.ctx, p.call(command.Manager, ""), admin.ClosedAsk{Warehouse: house, File: closedDays(forth(p.today, 60))},
		); err != nil {
			return err
		}
	}
	return nil
}

// closedDays is a calendar with the stock-taking of a season and the works outing.
func closedDays(from days.Day) string {
	date := func(d days.Day) string { return strings.ReplaceAll(d.String(), "-", "") }
	var b strings.Builder
	b.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Kilnmoor Ceramic Supply//Closed days//EN\r\n")
	for i, e := range []struct {
		name     string
		from, to days.Day
	}{{"Stock-taking", from, from + 2}, {"Works outing", forth(from, 15), forth(from, 15) + 1}} {
		fmt.Fprintf(&b, "BEGIN:VEVENT\r\nUID:%d@kilnmoor.example\r\nDTSTAMP:20270101T000000Z\r\n"+
			"DTSTART;VALUE=DATE:%s\r\nDTEND;VALUE=DATE:%s\r\nSUMMARY:%s\r\nEND:VEVENT\r\n",
			i+1, date(e.from), date(e.to), e.name)
	}
	b.WriteString("END:VCALENDAR\r\n")
	return b.String()
}

// quotes are made and answered, and what is lacking is requested, in the days before today.
func (p *player) quotes(day days.Day) error {
	rate := func(bp int) *int { return &bp }
	switch day {
	case back(p.today, 12): // nobody has answered, and it has expired
		_, err := p.quote(
			day, "Quernside Studio", forth(p.today, 4), back(p.today, 2), "", sales.DraftLine{SKU: "WH-10", Qty: 2},
			sales.DraftLine{SKU: "TL-023", Qty: 4},
		)
		return err
	case back(p.today, 5): // accepted in part two days later: the shelves they wanted at once
		number, err := p.quote(day, "Larkrigg Potters' Co-op", forth(p.today, 6), forth(p.today, 9), "Price agreed at the fair",
			sales.DraftLine{
				SKU: "GL-2425-5", Qty: 6, DiscountBP: rate(1000),
			}, sales.DraftLine{SKU: "KF-370", Qty: 24}, sales.DraftLine{SKU: "TL-044", Qty: 10})
		p.fair = number
		return err
	case back(p.today, 3):
		p.at(day, 8, 45)
		q, err := p.d.Sales.Quote(p.ctx, p.fair)
		if err != nil {
			return err
		}
		rest := q.Rest
		rest.Lines = rest.Lines[1:2]
		rest.CustomerRef = "Co-op 218"
		_, err = p.d.Sales.AcceptQuote(p.ctx, p.call(command.Sales, ""), rest)
		return err
	case back(p.today, 1): // dear: a manager has to look at it; and one that can be accepted
		if _, err := p.quote(day, "Millrace College", forth(p.today, 14), forth(p.today, 10), "New kiln room", sales.DraftLine{
			SKU: "KL-130", Qty: 1,
		},
			sales.DraftLine{SKU: "KF-330", Qty: 12, DiscountBP: rate(1500)}, sales.DraftLine{SKU: "WH-25", Qty: 4}); err != nil {
			return err
		}
		if _, err := p.quote(day, "Netherclay Studio", forth(p.today, 5), forth(p.today, 8), "", sales.DraftLine{
			SKU: "GL-2285-1", Qty: 12,
		}, sales.DraftLine{SKU: "GL-2320-1", Qty: 12},
			sales.DraftLine{SKU: "TL-035", Qty: 3}); err != nil {
			return err
		}
		return p.buying(day)
	}
	return nil
}

func (p *player) quote(day days.Day, customer string, wanted, expires days.Day, note string, lines ...sales.DraftLine) (string, error) {
	p.at(day, 8, 30)
	for i := range lines {
		if p.bySKU[lines[i].SKU] == nil {
			return "", fmt.Errorf("the demo has no item %s", lines[i].SKU)
		}
	}
	out, err := p.d.Sales.MakeQuote(p.ctx, p.call(command.Sales, ""), sales.QuoteAsk{
		Expires: expires.String(), Draft: sales.Draft{Customer: p.find(customer).code, Wanted: wanted.String(), Note: note, Lines: lines},
	})
	if err != nil {
		return "", fmt.Errorf("quote for %s: %w", customer, err)
	}
	return out.Documents[0].Number, nil
}

// buying requests more of what is lacking; one request was ordered at once.
func (p *player) buying(day days.Day) error {
	p.at(day, 10, 5)
	for _, sku := range []string{"GL-2180-1", "GL-2075-5", "TL-014"} {
		it := p.bySKU[sku]
		b, err := p.d.Promising.ProposeBuy(p.ctx, sku, it.house)
		if err != nil {
			return err
		}
		out, err := p.d.Promising.RequestBuy(
			p.ctx, p.call(command.Coordinator, ""),
			promising.BuyAsk{SKU: sku, Warehouse: it.house, Qty: max(b.Qty, it.multiple*24), Wanted: b.Wanted},
		)
		if err != nil {
			return err
		}
		if sku == "TL-014" {
			if _, err := p.d.Promising.ConfirmBuy(p.ctx, p.call(command.Coordinator, ""), promising.BuyConfirm{
				Number: out.Documents[0].Number, Ref: "PO-772", Due: b.Wanted, Qty: max(b.Qty, 24), Supplier: "Withy Tool Makers",
			}); err != nil {
				return err
			}
		}
	}
	return nil
}
