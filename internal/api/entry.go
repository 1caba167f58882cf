package api

import (
	"context"
	"encoding/csv"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
)

// question registers a question that is too long for an address: it changes nothing.
func question[T, O any](s *Server, a huma.API, id, path, summary string, fn func(context.Context, T) (O, error)) {
	huma.Register(a, huma.Operation{
		OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, MaxBodyBytes: 1 << 20, Middlewares: s.signedIn(a),
		Errors: []int{http.StatusUnauthorized, http.StatusNotFound, http.StatusUnprocessableEntity},
	}, func(ctx context.Context, in *struct{ Body T }) (*body[O], error) {
		who, err := s.actor(ctx)
		if err != nil {
			return nil, err
		}
		ctx, cancel := context.WithTimeout(ctx, questionWithin)
		defer cancel()
		out, err := fn(ctx, in.Body)
		unseen(who, &out)
		return bodyOf(out, s.answer(ctx, err))
	})
}

// entryRoutes are those of orders and quotes as they are entered and changed, of requests to
// buy, and of the rules of the house.
func (s *Server) entryRoutes(a huma.API) {
	type ctx = context.Context
	type actor = command.Actor
	d := s.Desk
	question(s, a, "rehearse-release", "/api/rehearse-release", "What releasing some lines would come to",
		d.Floor.RehearseRelease)
	question(
		s, a, "choose-quickly", "/api/choose-quickly", "Lines that could go, chosen by a rule, with what was left out and why",
		d.Floor.ChooseQuickly,
	)
	question(s, a, "rehearse-recall", "/api/rehearse-recall", "What stopping units of an order would do", d.Floor.RehearseRecall)
	question(s, a, "rehearse-pack", "/api/rehearse-pack", "What putting picked units into packages would come to", d.Floor.RehearsePack)
	question(s, a, "propose-packages", "/api/propose-packages", "Into what the picked units of an order could be packed", d.Floor.Propose)
	question(s, a, "weigh", "/api/weigh", "What the scale says of a package", d.Floor.Weigh)
	question(s, a, "draft", "/api/draft", "What an order comes to while it is being entered", d.Sales.Draft)
	question(s, a, "paste", "/api/paste", "Rows of pasted text as lines of an order", func(c ctx, in struct {
		Text string `json:"text" maxLength:"200000"`
	},
	) ([]sales.Pasted, error) {
		return d.Sales.Paste(c, in.Text)
	})
	get(s, a, "find-items", "/api/find-items", "Items by parts of their number and name, with what is free", func(c ctx, _ actor,
		in *struct {
			Query     string `query:"q" maxLength:"200"`
			Warehouse string `query:"warehouse" maxLength:"12"`
		},
	) ([]query.ItemHit, error) {
		return d.Query.FindItems(c, in.Query, in.Warehouse)
	})
	get(
		s, a, "draft-of", "/api/orders/{number}/draft", "An order as a draft that can be changed",
		func(c ctx, _ actor, in *numberIn) (sales.Draft, error) { return d.Sales.DraftOf(c, in.Number) },
	)
	list(s, a, "quotes", "/api/quotes", "A page of quotes, those that can be accepted first", d.Query.Quotes)
	get(
		s, a, "quote", "/api/quotes/{number}", "One quote",
		func(c ctx, _ actor, in *numberIn) (sales.QuoteView, error) { return d.Sales.Quote(c, in.Number) },
	)
	get(s, a, "propose-buy", "/api/items/{number}/buy", "How many of an item a warehouse lacks", func(c ctx, _ actor, in *struct {
		Number    string `path:"number" maxLength:"60"`
		Warehouse string `query:"warehouse" maxLength:"12"`
	},
	) (promising.BuyProposal, error) {
		return d.Promising.ProposeBuy(c, in.Number, in.Warehouse)
	})
	get(s, a, "buy-requests", "/api/buy-requests", "Requests to buy, those that wait first", func(c ctx, _ actor, in *struct {
		QueryIn
		SKU string `query:"sku" maxLength:"60"`
	},
	) ([]query.BuyView, error) {
		return d.Query.BuyRequests(c, in.Query, in.SKU)
	})
	s.buyFile(a)
	get(
		s, a, "settings", "/api/settings", "The rules of the house",
		func(c ctx, _ actor, _ *struct{}) (admin.SettingsView, error) { return d.Admin.Settings(c) },
	)

	post(s, a, command.VerbEnter, "enter-order", "/api/enter-order", "Enter an order with the promises that were shown", d.Sales.Enter)
	post(s, a, command.VerbChange, "change-order", "/api/change-order", "Change an order that is under way", d.Sales.Change)
	post(s, a, command.VerbQuote, "make-quote", "/api/make-quote", "Make a quote, or change one", d.Sales.MakeQuote)
	post(
		s, a, command.VerbApprove, "approve-quote", "/api/approve-quote", "Approve a quote that is worth more than the limit",
		d.Sales.ApproveQuote,
	)
	post(s, a, command.VerbQuote, "withdraw-quote", "/api/withdraw-quote", "End a quote, with a reason", d.Sales.WithdrawQuote)
	post(s, a, command.VerbEnter, "accept-quote", "/api/accept-quote", "Make an order of a quote, or of part of it", d.Sales.AcceptQuote)
	post(s, a, command.VerbBuy, "request-buy", "/api/request-buy", "Request that more is bought", d.Promising.RequestBuy)
	post(s, a, command.VerbSettle, "confirm-buy", "/api/confirm-buy", "Expect what was requested", d.Promising.ConfirmBuy)
	post(s, a, command.VerbSettle, "withdraw-buy", "/api/withdraw-buy", "End a request to buy, with a reason", d.Promising.WithdrawBuy)
	post(s, a, command.VerbSettings, "set-house", "/api/set-house", "Say when a warehouse works", d.Admin.SetHouse)
	post(
		s, a, command.VerbSettings, "set-floor", "/api/set-floor", "Say how a floor is laid out and how quickly it works", d.Admin.SetFloor,
	)
	post(s, a, command.VerbSettings, "set-service", "/api/set-service", "Say when the carrier of a service comes", d.Admin.SetService)
	post(s, a, command.VerbSettings, "close-days", "/api/close-days", "Close a warehouse on days, or open it again", d.Admin.CloseDays)
	post(
		s, a, command.VerbSettings, "set-company", "/api/set-company", "Set the GS1 company prefix of the codes on labels",
		d.Admin.SetCompanyPrefix,
	)
	post(
		s, a, command.VerbSettings, "set-package-kind", "/api/set-package-kind", "Add or change a kind of carton or pallet",
		d.Admin.SetPackageKind,
	)
	post(
		s, a, command.VerbSettings, "drop-package-kind", "/api/drop-package-kind", "Take a kind of carton or pallet away",
		d.Admin.DropPackageKind,
	)
	post(s, a, command.VerbSettings, "set-prefixes", "/api/set-prefixes", "Say what numbers of documents begin with", d.Admin.SetPrefixes)
	post(
		s, a, command.VerbSettings, "set-quote-limit", "/api/set-quote-limit", "Set above which value a quote needs approval",
		d.Admin.SetQuoteLimit,
	)
}

type csvOut struct {
	Type string `header:"Content-Type"`
	Name string `header:"Content-Disposition"`
	Body []byte
}

// buyFile hands out the requests to buy that wait, for whoever buys.
func (s *Server) buyFile(a huma.API) {
	huma.Register(a, huma.Operation{
		OperationID: "buy-requests-file", Method: http.MethodGet, Path: "/api/buy-requests.csv",
		Summary: "Requests to buy that wait, as a CSV file", Middlewares: s.signedIn(a),
		Responses: map[string]*huma.Response{
			"200": {Description: "CSV, UTF-8", Content: map[string]*huma.MediaType{"text/csv": {Schema: &huma.Schema{Type: "string"}}}},
		},
	}, func(ctx context.Context, _ *struct{}) (*csvOut, error) {
		rows, err := s.Desk.Query.BuyRequests(ctx, "", "")
		if err != nil {
			return nil, s.answer(ctx, err)
		}
		var b strings.Builder
		w, plain := csv.NewWriter(&b), exchange.PlainCell
		records := [][]string{{"request", "sku", "name", "warehouse", "qty", "unit", "wanted", "note", "asked_by", "asked"}}
		for _, x := range rows {
			if x.State == "asked" {
				records = append(records, []string{
					plain(x.Number), plain(x.SKU), plain(x.Item), plain(x.Warehouse), strconv.FormatInt(x.Qty, 10),
					plain(x.Unit), x.Wanted, plain(x.Note), plain(x.Who), x.At,
				})
			}
		}
		if err := w.WriteAll(records); err != nil {
			return nil, err
		}
		return &csvOut{"text/csv; charset=utf-8", `attachment; filename="requests-to-buy.csv"`, []byte(b.String())}, nil
	})
}
