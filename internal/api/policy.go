package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/promising"
)

// rehearse registers a question that takes long enough to tell how far it is, under a key.
func rehearse[T, O any](s *Server, a huma.API, id, path, summary string, fn func(context.Context, command.Call, T) (O, error)) {
	huma.Register(a, huma.Operation{
		OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, MaxBodyBytes: 1 << 20,
		Middlewares: append(s.signedIn(a), untilDone(a)...),
		Errors: []int{
			http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusConflict, http.StatusUnprocessableEntity,
		},
	}, func(ctx context.Context, in *struct {
		Key  string `header:"Progress-Key" required:"true" format:"uuid" doc:"A new UUID under which is told how far it is"`
		Body T
	},
	) (*body[O], error) {
		who, err := s.actor(ctx)
		if err != nil {
			return nil, err
		}
		key, err := uuid.Parse(in.Key)
		if err != nil {
			return nil, tell(http.StatusUnprocessableEntity, "The Progress-Key is not a UUID.")
		}
		ctx, cancel := context.WithTimeout(ctx, longWithin)
		defer cancel()
		out, err := fn(ctx, command.Call{Key: key.String(), Actor: who}, in.Body)
		return bodyOf(out, s.answer(ctx, err))
	})
}

// policyRoutes are those of who gets the stock: policies and their runs, contested items, reasons,
// making room.
func (s *Server) policyRoutes(a huma.API) {
	type ctx = context.Context
	type actor = command.Actor
	d := s.Desk
	get(
		s, a, "policies", "/api/policies", "The policies by which a book is served",
		func(c ctx, _ actor, _ *struct{}) (allocation.PoliciesView, error) { return d.Allocation.Policies(c) },
	)
	get(
		s, a, "runs", "/api/runs", "The policies that were run lately, and what became of it",
		func(c ctx, who actor, _ *struct{}) (allocation.RunsView, error) { return d.Allocation.Runs(c, who) },
	)
	get(s, a, "contested", "/api/contested", "Items of which more is wanted than is free, the greatest trouble first",
		func(c ctx, _ actor, in *QueryIn) (allocation.ContestedPage, error) {
			return d.Allocation.Contested(c, in.Query)
		})
	question(s, a, "contest", "/api/contest", "One contested item, with what is tried on it", d.Allocation.Contest)
	question(s, a, "what-if", "/api/what-if", "What a run over the whole book would do otherwise if one thing were", d.Allocation.WhatIf)
	question(s, a, "room", "/api/room", "Which promises could be postponed so that a demand fits", d.Promising.MakeRoomFor)
	get(s, a, "standing", "/api/customers/{number}/standing", "What a customer is worth and how well they were served",
		func(c ctx, _ actor, in *numberIn) (promising.StandingView, error) {
			return d.Promising.Standing(c, in.Number)
		})
	rehearse(
		s, a, "rehearse-run", "/api/rehearse-run", "What a policy would allocate, beside what another one would", d.Allocation.Rehearse,
	)
	get(s, a, "why", "/api/lines/{line}/why", "Why a line has what it has", func(c ctx, _ actor, in *struct {
		Line int64 `path:"line"`
	},
	) (allocation.WhyView, error) {
		return d.Allocation.Why(c, in.Line)
	})
	post(s, a, command.VerbPolicy, "set-policy", "/api/set-policy", "Make a policy, or change one", d.Allocation.SetPolicy)
	post(s, a, command.VerbPolicy, "drop-policy", "/api/drop-policy", "Forget a policy", d.Allocation.DropPolicy)
	post(s, a, command.VerbPolicy, "default-policy", "/api/default-policy", "Make a policy the default", d.Allocation.DefaultPolicy)
	post(
		s, a, command.VerbMove, "move-units", "/api/move-units", "Give lines of a contested item the units that were tried",
		d.Allocation.MoveUnits,
	)
	post(s, a, command.VerbMakeRoom, "make-room", "/api/make-room", "Put promises back so that a demand fits", d.Sales.MakeRoom)
	post(
		s, a, command.VerbGiveBack, "give-back-all", "/api/give-back-all", "Return all that is allocated to free stock",
		d.Allocation.GiveBackAll,
	)
	post(
		s, a, command.VerbStop, "stop", "/api/stop",
		"What became of the command of this key that was cut off: its answer, or that it is stopped for good", d.Stop,
	)
	post(s, a, command.VerbRun, "apply-run", "/api/apply-run", "Carry out exactly the plan that was shown", d.Allocation.ApplyRun)
}
