package store

import (
	"fmt"
	"strings"
)

// quoteState is how far a quote is, as core/order.Quote.State has it.
const quoteState = `CASE WHEN q.withdrawn_by IS NOT NULL THEN 'withdrawn' WHEN x.accepted = x.qty AND x.qty > 0 THEN 'accepted'
	WHEN q.expires < CAST(@today AS date) THEN 'expired' WHEN x.value > CAST(@limit AS bigint) AND q.approved_by IS NULL THEN 'to approve'
	ELSE 'open' END`

// canAccept is that something of a quote can still be accepted, if a manager approves it.
const canAccept = "q.withdrawn_by IS NULL AND q.expires >= CAST(@today AS date) AND x.accepted < x.qty"

// Quotes is the list of quotes: those that can still be accepted first, the one that expires next before others. Its scope "state" is one
// of the states, or empty for all.
var Quotes = &List{
	Name: "quotes", First: "left", tie: part{"q.id", Number}, key: "q.id",
	Columns: []Column{
		{
			Name: "left", Title: "Can be accepted", Kind: Number, By: "CASE WHEN " + canAccept + " THEN 0 ELSE 1 END",
			Parts: []string{canAccept, "NOT (" + canAccept + ")"}, Then: []part{{"q.expires", Day}},
		},
		{Name: "number", Title: "Quote", Kind: Text, By: "q.number"},
		{Name: "tier", Title: "Tier", Kind: Number, By: "c.tier", Then: []part{{"q.expires", Day}}, Group: true},
		{Name: "customer", Title: "Customer", Kind: Text, By: "c.name", Names: customersNamed, Key: "q.customer_id", Group: true},
		{Name: "wanted", Title: "Requested", Kind: Day, By: "q.wanted", Group: true},
		{Name: "expires", Title: "Valid until", Kind: Day, By: "q.expires", Group: true},
		{Name: "lines", Title: "Lines", Kind: Number, By: "x.lines", Sum: "x.lines"},
		{Name: "value", Title: "Value", Kind: Money, By: "x.value", Sum: firmsOwn("q.currency", "x.value")},
		{Name: "accepted", Title: "Accepted", Kind: Money, By: "x.accepted_minor", Sum: firmsOwn("q.currency", "x.accepted_minor")},
		{
			Name: "margin", Title: "Margin", Kind: Share, By: "(CASE WHEN x.value = 0 THEN 1 ELSE (x.value - x.cost)::numeric / x.value END)",
			Costs: true,
		},
		{Name: "state", Title: "State", Kind: Text, By: quoteState, Group: true},
		{Name: "currency", Title: "Currency", Kind: Text, By: "q.currency", Group: true},
		{Name: "channel", Title: "Channel", Kind: Text, By: "q.channel", Group: true},
		{Name: "who", Title: "Made by", Kind: Text, By: "u.name", Group: true},
		{Name: "made", Title: "Made", Kind: Moment, By: "m.at"},
	},
	begin: beginQuotes,
}

func beginQuotes(r *Reader, ask ListAsk, _ bool) (*rows, error) {
	limit, err := r.QuoteLimit()
	if err != nil {
		return nil, err
	}
	p := &rows{args: map[string]any{"today": ask.Today, "limit": limit}, from: func(shows string) string {
		return "quote q" + joins(
			shows,
			join{"c", "customer c ON c.id = q.customer_id"},
			join{"m", "command m ON m.id = q.made_by"},
			join{"u", "app_user u ON u.id = m.actor_id"},
			join{"x", `LATERAL (
				SELECT count(*) AS lines, shown(coalesce(sum(l.qty), 0)) AS qty, shown(coalesce(sum(l.accepted), 0)) AS accepted,
					shown(coalesce(sum(l.qty::numeric * l.price_minor), 0)) AS value, shown(coalesce(sum(l.qty::numeric * l.cost_minor), 0)) AS cost,
					shown(coalesce(sum(l.accepted::numeric * l.price_minor), 0)) AS accepted_minor
				FROM quote_line l WHERE l.quote_id = q.id) x ON true`},
		)
	}}
	if state := ask.Scope["state"]; state != "" {
		p.args["state"] = state
		p.conds = append(p.conds, quoteState+" = @state")
	}
	for i, w := range ask.Words {
		k := fmt.Sprintf("w%d", i)
		p.args[k] = "%" + likeEscape(w) + "%"
		p.conds = append(p.conds, strings.ReplaceAll(`(lower(q.number) LIKE lower(@w) OR lower(q.customer_ref) LIKE lower(@w)
			OR c.found_by LIKE lower(@w) OR EXISTS (SELECT 1 FROM quote_line l JOIN item i ON i.id = l.item_id
				WHERE l.quote_id = q.id AND i.found_by LIKE lower(@w)))`, "@w", "@"+k))
	}
	return p, nil
}

// QuotesByKey returns the quotes of those keys, in their order.
func (r *Reader) QuotesByKey(keys IDs) ([]QuoteHead, error) {
	heads, err := all[QuoteHead](r, quoteHead+` WHERE q.id = ANY(?)`, keys)
	return inKeyOrder(keys, heads, func(q QuoteHead) int64 { return q.ID }), err
}
