package api

import (
	"context"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/query"
)

// ChosenIn is which rows of a list are wanted. It is exported because the API's reader passes over what is embedded and not.
type ChosenIn struct {
	QueryIn
	Only  []string `query:"only,explode" maxItems:"60" doc:"Conditions, as channel=web: a column, one of = != ~ >= <=, a value"`
	State string   `query:"state" maxLength:"20" doc:"As a list is scoped: orders late, shipments under way; empty for its own"`
	DueIn
	Station string `query:"station" enum:"open,allocated,released,picked,packed,shipped,delivered,dropped" doc:"Orders with units there"`
}

func (in *ChosenIn) ask(who actor) query.Ask {
	return query.Ask{Query: in.Query, Only: in.Only, Who: who, Scope: map[string]string{
		"state": in.State, "station": in.Station, "until": in.Until, "warehouse": in.Warehouse,
	}}
}

// DueIn is which allocated lines count as due.
type DueIn struct {
	Until     string `query:"until" maxLength:"10" doc:"Of allocated lines: those to be shipped by this day; two working days ahead if empty"`
	Warehouse string `query:"warehouse" maxLength:"12" doc:"Of allocated lines: only what is allocated there"`
}

// SummedIn is which columns are added up.
type SummedIn struct {
	Sums []string `query:"sums,explode" maxItems:"60" doc:"Columns that are added up"`
}

// SortedIn is by what rows are sorted.
type SortedIn struct {
	Sort string `query:"sort" maxLength:"20" doc:"A column; the list's own order if empty"`
	Down bool   `query:"down" doc:"The greatest first"`
}

// ListIn asks for a page of a list.
type ListIn struct {
	ChosenIn
	SortedIn
	After string `query:"after" maxLength:"600" doc:"Where the page before it ended"`
	UpTo  string `query:"upto" maxLength:"600" doc:"Where this page ended when it was asked for before, to ask for the same again"`
}

// list registers a list that is handed out by pages.
func list[O any](s *Server, a huma.API, id, path, summary string, fn func(context.Context, query.Ask) (O, error)) {
	get(s, a, id, path, summary, func(c ctx, who actor, in *ListIn) (O, error) {
		q := in.ask(who)
		q.Sort, q.Down, q.After, q.UpTo = in.Sort, in.Down, in.After, in.UpTo
		return fn(c, q)
	})
}

// NamedIn names a list.
type NamedIn struct {
	List string `path:"list" enum:"orders,open,promises,items,customers,inbound,pick-lists,packing,shipments,journal,quotes,release,papers,lots"`
}

// listRoutes answer about any list.
func (s *Server) listRoutes(a huma.API) {
	get(s, a, "list-columns", "/api/lists/{list}", "The columns of a list", func(_ ctx, who actor, in *NamedIn) ([]query.ListColumn, error) {
		return s.Desk.Query.Columns(in.List, who)
	})
	get(s, a, "list-sum", "/api/lists/{list}/sum", "How many rows a list has, and what they come to", func(c ctx, who actor, in *struct {
		NamedIn
		ChosenIn
		SummedIn
		Exact bool `query:"exact" doc:"Count all that are found; else up to 10,000 are"`
	},
	) (query.ListSum, error) {
		q := in.ask(who)
		q.Exact, q.Sums = in.Exact, in.Sums
		return s.Desk.Query.Sum(c, in.List, q)
	})
	get(s, a, "list-groups", "/api/lists/{list}/groups", "A list in groups, with what each comes to", func(c ctx, who actor, in *struct {
		NamedIn
		ChosenIn
		SortedIn
		SummedIn
		By string `query:"by" required:"true" maxLength:"20"`
	},
	) (query.ListGroups, error) {
		q := in.ask(who)
		q.Sort, q.Down, q.Sums = in.Sort, in.Down, in.Sums
		return s.Desk.Query.Groups(c, in.List, in.By, q)
	})
	get(s, a, "list-keys", "/api/lists/{list}/keys", "All rows of a list that are found, to choose them", func(c ctx, who actor, in *struct {
		NamedIn
		ChosenIn
		SortedIn
		SummedIn
	},
	) (query.ListKeys, error) {
		q := in.ask(who)
		q.Sort, q.Down, q.Sums = in.Sort, in.Down, in.Sums
		return s.Desk.Query.Keys(c, in.List, q)
	})
	s.listFile(a)
	get(s, a, "views", "/api/views", "The views of a list: one's own, then those for all", func(c ctx, who actor, in *struct {
		List string `query:"list" required:"true" maxLength:"20"`
	},
	) ([]admin.View, error) {
		return s.Desk.Admin.Views(c, in.List, who)
	})
	post(s, a, command.VerbView, "keep-view", "/api/keep-view", "Keep how a list is shown under a name", s.Desk.Admin.KeepView)
	post(s, a, command.VerbView, "drop-view", "/api/drop-view", "Take a view away", s.Desk.Admin.DropView)
}

// fileKinds are the forms in which a list can be taken along.
var fileKinds = map[string]string{
	"csv": "text/csv; charset=utf-8", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}

// listFile hands out a list as a file.
func (s *Server) listFile(a huma.API) {
	huma.Register(a, huma.Operation{
		OperationID: "list-file", Method: http.MethodGet, Path: "/api/lists/{list}/file",
		Summary: "All rows of a list that are found, as CSV or as a workbook", Middlewares: append(s.signedIn(a), untilDone(a)...),
		Responses: map[string]*huma.Response{"200": {Description: "The file", Content: map[string]*huma.MediaType{
			"text/csv": {Schema: &huma.Schema{Type: "string"}}, "application/octet-stream": {Schema: &huma.Schema{Type: "string"}},
		}}},
	}, func(ctx context.Context, in *struct {
		NamedIn
		ChosenIn
		SortedIn
		Form    string   `query:"form" enum:"csv,xlsx" default:"csv"`
		Columns []string `query:"columns" maxItems:"60" doc:"In that order; all if none is named"`
	},
	) (*huma.StreamResponse, error) {
		who, err := s.actor(ctx)
		if err != nil {
			return nil, err
		}
		q := in.ask(who)
		q.Sort, q.Down = in.Sort, in.Down
		table, err := s.Desk.Query.Table(ctx, in.List, in.Columns, q)
		if err != nil {
			return nil, s.answer(ctx, err)
		}
		return &huma.StreamResponse{Body: func(hc huma.Context) {
			hc.SetHeader("Content-Type", fileKinds[in.Form])
			hc.SetHeader("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-%s.%s"`, in.List, s.Desk.Today(), in.Form))
			write := table.WriteCSV
			if in.Form == "xlsx" {
				write = table.WriteXLSX
			}
			if err := write(hc.BodyWriter()); err != nil {
				s.Log.WarnContext(ctx, "a list as a file", "list", in.List, "error", err)
				panic(http.ErrAbortHandler) // a file that ends early must not look whole
			}
		}}, nil
	})
}
