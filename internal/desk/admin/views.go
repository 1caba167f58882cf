package admin

import (
	"context"
	"encoding/json"
	"strings"

	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// View is how a list is shown, kept under a name.
type View struct {
	ID     int64          `json:"id"`
	Name   string         `json:"name"`
	ForAll bool           `json:"for_all"`
	Opens  bool           `json:"opens" doc:"The list opens with it; one's own before that for all"`
	Who    string         `json:"who" doc:"Who kept it"`
	May    bool           `json:"may" doc:"One may change it and take it away"`
	Search map[string]any `json:"search" doc:"What the page's address says of the list"`
}

// Views returns the views of a list that a person has: their own, then those for all.
func (d *Desk) Views(ctx context.Context, list string, who command.Actor) ([]View, error) {
	rows, err := d.Store.Read(ctx).ListViews(list, who.ID)
	if err != nil {
		return nil, err
	}
	out := make([]View, len(rows))
	for i, v := range rows {
		out[i] = View{v.ID, v.Name, v.Owner == 0, v.Opens, v.Who, v.Owner != 0 || mayForAll(who), nil}
		if err := json.Unmarshal([]byte(v.Search), &out[i].Search); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// mayForAll says whether somebody may keep views for all.
func mayForAll(who command.Actor) bool {
	return who.Role.May(command.VerbViewAll)
}

// ViewAsk keeps a view.
type ViewAsk struct {
	List   string `json:"list" enum:"orders,open,promises,items,customers,inbound,pick-lists,packing,shipments,journal,quotes,release,papers,lots"`
	Name   string `json:"name" minLength:"1" maxLength:"60"`
	ForAll bool   `json:"for_all,omitempty"`
	Opens  bool   `json:"opens,omitempty" doc:"Let the list open with it"`
	Search string `json:"search" maxLength:"4000" doc:"What the page's address says of the list, as a JSON object"`
}

// KeepView keeps how a list is shown under a name, in place of what had that name before.
//
// It locks the list's views. It refuses views for all to whoever is neither coordinator nor manager, and names that are empty.
func (d *Desk) KeepView(ctx context.Context, call command.Call, ask ViewAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbView, ask, func(w *command.UnitOfWork) error {
		v := store.ListView{List: ask.List, Name: strings.TrimSpace(ask.Name), Owner: call.Actor.ID, Opens: ask.Opens}
		if v.Name == "" {
			return command.Invalid("Give the view a name.")
		}
		if ask.ForAll {
			if !mayForAll(call.Actor) {
				return command.Forbidden("Views for all are kept by coordinators and managers. Keep it for yourself, or ask one of them.")
			}
			v.Owner = 0
		}
		var search map[string]any
		if err := json.Unmarshal([]byte(ask.Search), &search); err != nil || search == nil || strings.Contains(ask.Search, `\u0000`) {
			return command.Invalid("A view is kept as a JSON object of what the address says of the list.")
		}
		v.Search = ask.Search
		w.Say("The view “%s” is kept.", v.Name)
		return w.Tx.KeepListView(v, call.Actor.ID)
	})
}

// ViewSeen is a view that is to be taken away.
type ViewSeen struct {
	ID int64 `json:"id"`
}

// DropView takes a view away.
//
// It locks the list's views. It refuses what is not there, and others' views; those for all are taken away by coordinators and managers.
func (d *Desk) DropView(ctx context.Context, call command.Call, ask ViewSeen) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbView, ask, func(w *command.UnitOfWork) error {
		v, found, err := w.Tx.ListView(ask.ID)
		if err != nil {
			return err
		}
		if !found || v.Owner != 0 && v.Owner != call.Actor.ID {
			return command.NotFound("This view is not there any more.")
		}
		if v.Owner == 0 && !mayForAll(call.Actor) {
			return command.Forbidden("Views for all are taken away by coordinators and managers. Ask one of them.")
		}
		if err := w.Tx.LockViews(v.List); err != nil {
			return err
		}
		w.Say("The view “%s” is taken away.", v.Name)
		return w.Tx.DropListView(v.ID)
	})
}
