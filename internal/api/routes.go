package api

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/google/uuid"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/supply"
	"journeyman/internal/query"
)

// signedIn turns away whoever is not signed in before anything that was sent is looked at.
func (s *Server) signedIn(a huma.API) huma.Middlewares {
	return huma.Middlewares{func(ctx huma.Context, next func(huma.Context)) {
		if visitorOf(ctx.Context()).actor.ID == 0 {
			if err := huma.WriteErr(a, ctx, http.StatusUnauthorized, notSignedIn); err != nil {
				s.Log.WarnContext(ctx.Context(), "answer", "error", err)
			}
			return
		}
		next(ctx)
	}}
}

// get registers a question of somebody who is signed in.
func get[I, O any](s *Server, a huma.API, id, path, summary string, fn func(context.Context, command.Actor, *I) (O, error)) {
	huma.Register(a, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary, Middlewares: s.signedIn(a)},
		func(ctx context.Context, in *I) (*body[O], error) {
			who, err := s.actor(ctx)
			if err != nil {
				return nil, err
			}
			ctx, cancel := context.WithTimeout(ctx, questionWithin)
			defer cancel()
			out, err := fn(ctx, who, in)
			unseen(who, &out)
			return bodyOf(out, s.answer(ctx, err))
		})
}

// How long a question, and a command, may take; one over thousands of lines may take longer.
const (
	questionWithin = 30 * time.Second
	commandWithin  = 80 * time.Second
	longWithin     = 20 * time.Minute
)

// untilDone lets the answer to what may take long be written when it is there.
func untilDone(huma.API) huma.Middlewares {
	return huma.Middlewares{func(ctx huma.Context, next func(huma.Context)) {
		_, w := humachi.Unwrap(ctx)
		_ = http.NewResponseController(w).SetWriteDeadline(time.Now().Add(longWithin + time.Minute))
		next(ctx)
	}}
}

// commandIn is what every command is given: what is asked, a reason if it needs
// one, and a key with which it may be repeated safely.
type commandIn[T any] struct {
	Key  string `header:"Idempotency-Key" required:"true" format:"uuid" doc:"A new UUID for each command; the same one asks again safely"`
	Body struct {
		Ask    T      `json:"ask"`
		Reason string `json:"reason,omitempty" maxLength:"500"`
	}
}

// post registers a command.
func post[T any](
	s *Server, a huma.API, verb command.Verb, id, path, summary string, fn func(context.Context, command.Call, T) (command.Outcome, error),
) {
	wares := s.signedIn(a)
	if verb.Long() {
		wares = append(wares, untilDone(a)...)
	}
	huma.Register(a, huma.Operation{
		OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, MaxBodyBytes: 8 << 20, Middlewares: wares,
		Errors: []int{
			http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusConflict, http.StatusUnprocessableEntity,
		},
	}, func(ctx context.Context, in *commandIn[T]) (*body[command.Outcome], error) {
		who, err := s.actor(ctx)
		if err != nil {
			return nil, err
		}
		key, err := uuid.Parse(in.Key)
		if err != nil {
			return nil, tell(http.StatusUnprocessableEntity, "The Idempotency-Key is not a UUID.")
		}
		if err := verb.Allowed(who); err != nil { // before what is asked is looked at
			s.count(verb, err)
			return nil, s.answer(ctx, err)
		}
		within := commandWithin
		if verb.Long() {
			within = longWithin
		}
		ctx, cancel := context.WithTimeout(ctx, within)
		defer cancel()
		out, err := fn(ctx, command.Call{Key: key.String(), Actor: who, Reason: in.Body.Reason}, in.Body.Ask)
		s.count(verb, err)
		return bodyOf(out, s.answer(ctx, err))
	})
}

func (s *Server) count(verb command.Verb, err error) {
	result := "done"
	if err != nil {
		result = "refused"
	}
	s.metrics.commands.WithLabelValues(string(verb), result).Inc()
}

type numberIn struct {
	Number string `path:"number" maxLength:"60"`
}

// LotNamedIn names a lot of an item.
type LotNamedIn struct {
	SKU string `query:"sku" required:"true" maxLength:"60"`
	Lot string `query:"lot" required:"true" maxLength:"40"`
}

// QueryIn is what is looked for.
type QueryIn struct {
	Query string `query:"q" maxLength:"200"`
}

// routes are those of people who are signed in.
func (s *Server) routes(a huma.API) {
	s.demoRoutes(a)
	s.sessionRoutes(a)
	s.reads(a)
	s.listRoutes(a)
	s.commands(a)
	s.importRoutes(a)
	s.entryRoutes(a)
	s.policyRoutes(a)
}

func (s *Server) reads(a huma.API) {
	s.orderReads(a)
	s.floorReads(a)
	s.stockReads(a)
	s.customerReads(a)
}

// What every question is told: whose it is, and how it ends.
type (
	ctx   = context.Context
	actor = command.Actor
)

// orderReads answers about orders and their lines.
func (s *Server) orderReads(a huma.API) {
	get(
		s, a, "strip", "/api/strip", "The journey bar of the whole book",
		func(c ctx, _ actor, _ *struct{}) (query.StripView, error) { return s.Desk.Query.Strip(c) },
	)
	get(
		s, a, "todo", "/api/todo", "What waits for a person, the most urgent first",
		func(c ctx, who actor, in *struct {
			Show string `query:"show" enum:"office,floor" doc:"Only what the office, or the floor, does; all if absent"`
		},
		) (query.TodoPage, error) {
			return s.Desk.Query.Todo(c, who, query.TodoShow(in.Show))
		},
	)
	list(s, a, "orders", "/api/orders", "A page of orders", s.Desk.Query.Orders)
	get(
		s, a, "order", "/api/orders/{number}", "One order",
		func(c ctx, _ actor, in *numberIn) (query.OrderView, error) { return s.Desk.Query.Order(c, in.Number) },
	)
	get(s, a, "trail", "/api/orders/{number}/trail", "What happened to an order, oldest first",
		func(c ctx, who actor, in *numberIn) ([]supply.TrailEntry, error) {
			return s.Desk.Query.Trail(c, in.Number, who)
		})
	get(
		s, a, "actions", "/api/actions", "What one did last, and what of it can be taken back",
		func(c ctx, who actor, _ *struct{}) ([]query.Action, error) { return s.Desk.Query.Actions(c, who) },
	)
	list(s, a, "open-lines", "/api/open", "A page of lines with open units", s.Desk.Query.Open)
	list(s, a, "journal", "/api/journal", "A page of all moves and stock entries, the latest first", s.Desk.Query.Journal)
	list(s, a, "promised", "/api/promised", "A page of the promises that stand", s.Desk.Query.Promised)
	get(
		s, a, "unpromised", "/api/unpromised", "How many lines have open units of which none is promised",
		func(c ctx, _ actor, _ *struct{}) (int64, error) { return s.Desk.Query.Unpromised(c) },
	)
	get(s, a, "search", "/api/search", "Find anything by part of its number or name",
		func(c ctx, _ actor, in *QueryIn) ([]query.Hit, error) {
			return s.Desk.Query.Search(c, in.Query)
		})
}

// floorReads answers about the floor and the dock.
func (s *Server) floorReads(a huma.API) {
	list(
		s, a, "release-lines", "/api/release", "A page of allocated lines: those that could go, or could not for a reason",
		s.Desk.Query.Release,
	)
	get(s, a, "releasable", "/api/releasable", "How much could be released, and how much not, and why", func(c ctx, _ actor, in *struct {
		QueryIn
		DueIn
	},
	) (floor.Offer, error) {
		return s.Desk.Floor.Offer(c, floor.DueAsk{Until: in.Until, Warehouse: in.Warehouse, Query: in.Query})
	})
	list(s, a, "pick-lists", "/api/pick-lists", "A page of pick lists", s.Desk.Query.PickLists)
	get(s, a, "pick-list", "/api/pick-lists/{number}", "One pick list, in walking order",
		func(c ctx, _ actor, in *numberIn) (query.PickListView, error) {
			return s.Desk.Query.PickList(c, in.Number)
		})
	list(s, a, "papers", "/api/papers", "A page of the sheets that were printed", s.Desk.Query.Papers)
	get(s, a, "paper", "/api/papers/{number}", "One sheet by the code that stands on it, void or not",
		func(c ctx, _ actor, in *numberIn) (query.PaperView, error) {
			return s.Desk.Query.Paper(c, in.Number)
		})
	s.document(a)
	list(s, a, "lots", "/api/lots", "A page of where units of lots are, or went", s.Desk.Query.Lots)
	get(s, a, "lot", "/api/lot", "One lot of an item, and what was noted of it", func(c ctx, _ actor, in *LotNamedIn) (query.LotHead, error) {
		return s.Desk.Query.Lot(c, in.SKU, in.Lot)
	})
	get(s, a, "rehearse-lot", "/api/rehearse-lot", "What recalling a lot would do",
		func(c ctx, _ actor, in *LotNamedIn) (floor.LotRecallView, error) {
			return s.Desk.Floor.RehearseLot(c, floor.LotAsk{SKU: in.SKU, Lot: in.Lot})
		})
	list(s, a, "packing", "/api/packing", "A page of what waits to be packed", s.Desk.Query.Packing)
	list(s, a, "shipments", "/api/shipments", "A page of shipments", s.Desk.Query.Shipments)
	get(s, a, "shipment", "/api/shipments/{number}", "One shipment with its packages",
		func(c ctx, _ actor, in *numberIn) (query.ShipmentPage, error) {
			return s.Desk.Query.Shipment(c, in.Number)
		})
}

// stockReads answers about items, what is expected of them, and what can be promised.
func (s *Server) stockReads(a huma.API) {
	list(s, a, "items", "/api/items", "A page of items", s.Desk.Query.Items)
	get(
		s, a, "item", "/api/items/{number}", "One item",
		func(c ctx, _ actor, in *numberIn) (query.ItemPage, error) { return s.Desk.Query.Item(c, in.Number) },
	)
	list(s, a, "inbound", "/api/inbound", "A page of expected receipts", s.Desk.Query.Inbound)
	get(s, a, "arrival-moved", "/api/inbound/{inbound}/moved", "What giving a receipt another day would do to promises", func(c ctx,
		_ actor, in *struct {
			Inbound int64  `path:"inbound"`
			Due     string `query:"due" maxLength:"10"`
		},
	) (promising.ArrivalEffect, error) {
		return s.Desk.Promising.ArrivalMoved(c, in.Inbound, in.Due)
	})
	get(s, a, "can-promise", "/api/promise", "How many of an item can be promised by when, with the proof", func(c ctx, _ actor,
		in *struct {
			SKU       string `query:"sku" maxLength:"60"`
			Qty       int64  `query:"qty" minimum:"1" maximum:"1000000000" default:"1"`
			Wished    string `query:"wished" maxLength:"10" doc:"The day on which it should be there; as soon as can be if empty"`
			Customer  string `query:"customer" maxLength:"40"`
			Service   string `query:"service" maxLength:"40"`
			Warehouse string `query:"warehouse" maxLength:"12"`
			Line      int64  `query:"line" doc:"Key of an order line that is to be promised anew"`
		},
	) (promising.PromiseAnswer, error) {
		return s.Desk.Promising.CanPromise(c, promising.PromiseQuestion{
			SKU: in.SKU, Qty: in.Qty, Wished: in.Wished, Customer: in.Customer, Service: in.Service, Warehouse: in.Warehouse, Line: in.Line,
		})
	})
}

// customerReads answers about customers.
func (s *Server) customerReads(a huma.API) {
	list(s, a, "customers", "/api/customers", "A page of customers", s.Desk.Query.Customers)
	get(s, a, "customer", "/api/customers/{number}", "One customer", func(c ctx, _ actor, in *numberIn) (query.CustomerPage, error) {
		return s.Desk.Query.Customer(c, in.Number)
	})
}

func (s *Server) commands(a huma.API) {
	d := s.Desk
	post(s, a, command.VerbAllocate, "allocate", "/api/allocate", "Set free stock aside", d.Allocation.Allocate)
	post(s, a, command.VerbGiveBack, "give-back", "/api/give-back", "Return allocated units to free stock", d.Allocation.GiveBack)
	post(s, a, command.VerbRelease, "release", "/api/release", "Hand allocated units to the floor", d.Floor.Release)
	post(s, a, command.VerbRelease, "release-due", "/api/release-due", "Hand all that could go to the floor", d.Floor.ReleaseDue)
	post(s, a, command.VerbPrint, "print", "/api/print", "Print pick lists again, which makes older sheets void", d.Floor.Print)
	post(
		s, a, command.VerbPrint, "print-labels", "/api/print-labels", "Print labels of the packages of a shipment, which makes older ones void",
		d.Floor.PrintLabels,
	)
	post(s, a, command.VerbHand, "hand", "/api/hand", "Say who picks a list", d.Floor.Hand)
	post(s, a, command.VerbHand, "break", "/api/break", "Say that one goes on a break, or is back", d.Floor.Break)
	post(s, a, command.VerbCount, "count", "/api/count", "Record what was counted in a bin", d.Floor.Count)
	get(s, a, "scan", "/api/scan/{number}", "What a scanned code stands for, and why nothing may be done with it",
		func(c ctx, _ actor, in *struct {
			Number string `path:"number" maxLength:"60" doc:"The code, as it was scanned"`
		},
		) (query.ScanView, error) {
			return d.Query.Scan(c, in.Number)
		})
	get(s, a, "put-backs", "/api/put-backs", "Recalled units that are to be put back",
		func(c ctx, _ actor, _ *struct{}) ([]query.PutBackView, error) { return d.Query.PutBacks(c) })
	get(s, a, "counts", "/api/counts", "Bins that are to be counted", func(c ctx, _ actor, _ *struct{}) ([]query.CountView, error) {
		return d.Query.Counts(c)
	})
	get(s, a, "pickers", "/api/pickers", "Who picks", func(c ctx, _ actor, _ *struct{}) ([]query.Picker, error) {
		return d.Query.Pickers(c)
	})
	post(s, a, command.VerbSetBin, "set-bin", "/api/set-bin", "Say in which bin an item lies of which that was not known", d.Floor.SetBin)
	post(
		s, a, command.VerbLot, "recall-lot", "/api/recall-lot", "Say that a lot must not be sent, and take back what of it is in the house",
		d.Floor.RecallLot,
	)
	post(s, a, command.VerbLot, "lift-lot", "/api/lift-lot", "Say that a lot may be sent again", d.Floor.LiftLot)
	post(s, a, command.VerbLot, "write-off-lot", "/api/write-off-lot", "Record that what was set aside of a lot is gone", d.Floor.WriteOffLot)
	post(s, a, command.VerbRecall, "recall", "/api/recall", "Take rows that nobody has picked off their pick list", d.Floor.Recall)
	post(
		s, a, command.VerbRecall, "recall-units", "/api/recall-units", "Stop units of an order before they leave, wherever they are",
		d.Floor.RecallUnits,
	)
	post(s, a, command.VerbPutBack, "put-back", "/api/put-back", "Record that recalled units lie in a bin again", d.Floor.PutBack)
	post(s, a, command.VerbPick, "pick", "/api/pick", "Confirm rows of a pick list", d.Floor.Pick)
	post(s, a, command.VerbPack, "pack", "/api/pack", "Put picked units into packages", d.Floor.Pack)
	post(s, a, command.VerbUnpack, "unpack", "/api/unpack", "Take everything out of a package", d.Floor.Unpack)
	post(s, a, command.VerbDispatch, "dispatch", "/api/dispatch", "Send shipments off", d.Dock.Dispatch)
	post(s, a, command.VerbDeliver, "deliver", "/api/deliver", "Record that shipments have arrived", d.Dock.Deliver)
	post(s, a, command.VerbReceive, "receive", "/api/receive", "Take in an inbound", d.Floor.Receive)
	post(s, a, command.VerbDrop, "drop", "/api/drop", "End open units, with a reason", d.Sales.Drop)
	post(s, a, command.VerbReopen, "reopen", "/api/reopen", "Take a drop back", d.Sales.Reopen)
	post(s, a, command.VerbHold, "hold", "/api/hold", "Stop an order from being released", d.Sales.Hold)
	post(
		s, a, command.VerbHold, "hold-customer", "/api/hold-customer", "Stop all orders of a customer, also those to come", d.Sales.HoldCustomer,
	)
	post(s, a, command.VerbLift, "lift-customer", "/api/lift-customer", "Take the hold on a customer away", d.Sales.LiftCustomer)
	post(s, a, command.VerbLift, "lift", "/api/lift", "Take a hold away", d.Sales.Lift)
	post(s, a, command.VerbPromise, "promise", "/api/promise", "Promise lines for days, or orders as early as can be", d.Promising.Promise)
	post(
		s, a, command.VerbMoveDue, "move-arrival", "/api/move-arrival", "Give a receipt another day, and promise anew what slips by it",
		d.Promising.MoveArrival,
	)
	post(s, a, command.VerbUndo, "undo", "/api/undo", "Take a command back while nothing else has happened", d.Undo.TakeBack)
}
