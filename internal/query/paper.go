package query

import (
	"context"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// PaperView is a sheet that was printed.
type PaperView struct {
	Code       string `json:"code" doc:"As it stands on it"`
	Kind       string `json:"kind" enum:"pick list,packing list,label"`
	Revision   int    `json:"revision"`
	List       string `json:"list,omitempty" doc:"Of a pick list"`
	Order      string `json:"order,omitempty" doc:"Of a packing list"`
	Package    string `json:"package,omitempty" doc:"Of a label"`
	Shipment   string `json:"shipment,omitempty" doc:"Of a label"`
	Warehouse  string `json:"warehouse"`
	At         string `json:"at" format:"date-time" doc:"When it was asked for"`
	Who        string `json:"who"`
	Run        int64  `json:"run" doc:"Key of the document in which it was printed"`
	Pages      int    `json:"pages" doc:"Of that document"`
	State      string `json:"state" enum:"drawing,printing,printed,kept" doc:"Of that document; kept: no printer has taken it"`
	Trouble    string `json:"trouble,omitempty" doc:"Why it is not printed yet"`
	VoidWhy    string `json:"void_why,omitempty" enum:"printed again,recalled,unpacked,sent otherwise" doc:"Absent while it stands"`
	VoidAt     string `json:"void_at,omitempty" format:"date-time"`
	VoidWho    string `json:"void_who,omitempty"`
	VoidReason string `json:"void_reason,omitempty" doc:"Why that was recalled, as it was said"`
	Standing   string `json:"standing,omitempty" doc:"The sheet that stands in its place"`
}

func paperViews(rows []store.PaperRow) []PaperView {
	out := make([]PaperView, len(rows))
	for i, p := range rows {
		v := PaperView{
			Code: p.Code, Kind: p.Kind, Revision: p.Revision, List: p.List, Order: p.Order, Package: p.Package, Shipment: p.Shipment,
			Warehouse: p.Warehouse,
			At:        p.At.UTC().Format(time.RFC3339), Who: p.Who, Run: p.PrintRunID, Pages: p.Pages, State: "drawing", Trouble: p.Trouble,
			VoidWhy: p.VoidWhy, VoidWho: p.VoidWho, VoidReason: p.VoidReason, Standing: p.Standing,
		}
		switch {
		case p.PrintedAt != nil:
			v.State = "printed"
		case p.Trouble != "":
			v.State = "printing"
		case p.HasPDF:
			v.State = "kept"
		}
		if p.VoidAt != nil {
			v.VoidAt = p.VoidAt.UTC().Format(time.RFC3339)
		}
		out[i] = v
	}
	return out
}

// Paper returns the sheet on which a code stands, void or not.
func (d *Desk) Paper(ctx context.Context, code string) (PaperView, error) {
	p, found, err := d.Store.Read(ctx).PaperByCode(code)
	if err != nil {
		return PaperView{}, err
	}
	if !found {
		return PaperView{}, command.NotFound("No sheet with the code %s was printed.", code)
	}
	return paperViews([]store.PaperRow{p})[0], nil
}

// PapersPage is a page of what was printed.
type PapersPage struct {
	Papers []PaperView `json:"papers"`
	Next
}

// Papers returns a page of what was printed.
func (d *Desk) Papers(ctx context.Context, ask Ask) (PapersPage, error) {
	r := d.Store.Read(ctx)
	rows, next, err := pageOf(d, r, store.Papers, ask, r.PapersByKey)
	return PapersPage{paperViews(rows), next}, err
}

// Document returns a document that was printed, or is there to be.
func (d *Desk) Document(ctx context.Context, run int64) ([]byte, error) {
	p, found, err := d.Store.Read(ctx).PrintRunByID(run)
	switch {
	case err != nil:
		return nil, err
	case !found:
		return nil, command.NotFound("There is no such document.")
	case p.PDF == nil:
		return nil, command.NotFound("The document is being drawn. Open it in a moment.")
	}
	return p.PDF, nil
}
