package admin_test

import (
	"context"
	"strings"
	"sync"
	"testing"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
)

func TestViewsAreKeptForOneselfOrForAll(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	keep := func(who command.Actor, v admin.ViewAsk) {
		t.Helper()
		v.List = "orders"
		ok(o.Admin.KeepView(ctx, o.By(who), v))
	}
	names := func(who command.Actor) string {
		t.Helper()
		views, err := o.Admin.Views(ctx, "orders", who)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, v := range views {
			name := v.Name
			if v.Opens {
				name += "*"
			}
			if !v.May {
				name += "-"
			}
			out = append(out, name)
		}
		return strings.Join(out, " ")
	}
	const web = `{"only":["channel=web"]}`
	keep(o.Tom, admin.ViewAsk{Name: "mine", Search: web, Opens: true})
	keep(o.Ana, admin.ViewAsk{Name: "ours", Search: web, ForAll: true, Opens: true})
	keep(o.Ana, admin.ViewAsk{Name: "theirs", Search: web, ForAll: true, Opens: true})
	keep(o.Tom, admin.ViewAsk{Name: " mine ", Search: `{"q":"clay"}`}) // in place of the one of that name
	if got := names(o.Tom); got != "mine ours- theirs*-" {
		t.Errorf("Tom has %q", got)
	}
	if got := names(o.Ana); got != "ours theirs*" {
		t.Errorf("Ana has %q", got)
	}
	views, err := o.Admin.Views(ctx, "orders", o.Tom)
	if err != nil || views[0].Search["q"] != "clay" || views[0].Search["only"] != nil {
		t.Errorf("%+v %v", views, err)
	}
	_, err = o.Admin.KeepView(ctx, o.By(o.Tom), admin.ViewAsk{List: "orders", Name: "for all", Search: web, ForAll: true})
	desktest.Refused(t, err, command.KindForbidden, "coordinators and managers")
	_, err = o.Admin.KeepView(ctx, o.By(o.Tom), admin.ViewAsk{List: "orders", Name: "  ", Search: web})
	desktest.Refused(t, err, command.KindInvalid, "a name")
	for _, search := range []string{"", "clay", "[1]", "null", `{"q":`, `{"q":"\u0000"}`, `{"q":1e999}`} {
		_, err = o.Admin.KeepView(ctx, o.By(o.Tom), admin.ViewAsk{List: "orders", Name: "odd", Search: search})
		desktest.Refused(t, err, command.KindInvalid, "JSON object")
	}
	// Nobody takes away what is somebody else's, or for all without being a coordinator.
	_, err = o.Admin.DropView(ctx, o.By(o.Ana), admin.ViewSeen{ID: views[0].ID})
	desktest.Refused(t, err, command.KindNotFound, "not there")
	_, err = o.Admin.DropView(ctx, o.By(o.Tom), admin.ViewSeen{ID: views[1].ID})
	desktest.Refused(t, err, command.KindForbidden, "coordinators and managers")
	ok(o.Admin.DropView(ctx, o.By(o.Ana), admin.ViewSeen{ID: views[1].ID}))
	_, err = o.Admin.DropView(ctx, o.By(o.Ana), admin.ViewSeen{ID: views[1].ID})
	desktest.Refused(t, err, command.KindNotFound, "not there")
}

// Of many who say at once that the list opens with their view, one is last, and the list opens with that alone.
func TestAListOpensWithOneView(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	var all sync.WaitGroup
	for _, name := range []string{"a", "b", "c", "d", "e", "f"} {
		all.Go(func() {
			_, err := o.Admin.KeepView(ctx, o.By(o.Ana), admin.ViewAsk{List: "items", Name: name, Search: "{}", ForAll: true, Opens: true})
			if err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	views, err := o.Admin.Views(ctx, "items", o.Ana)
	opens := 0
	for _, v := range views {
		if v.Opens {
			opens++
		}
	}
	if err != nil || len(views) != 6 || opens != 1 {
		t.Errorf("%d of %d views open the list, %v", opens, len(views), err)
	}
}
