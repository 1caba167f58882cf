package floor

import (
	"context"
	"fmt"
	"strings"
	"time"

	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/papers"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// LabelAsk says which shipment's packages get labels.
type LabelAsk struct {
	Shipment string `json:"shipment" minLength:"1" maxLength:"40"`
}

// PrintLabels has labels printed for the packages of a shipment that are not empty, each with an SSCC of its own; labels that were printed
// before are void from then on.
//
// It locks the lines in the shipment with their stock, then the shipment. It refuses a shipment that has left or is empty.
func (d *Desk) PrintLabels(ctx context.Context, call command.Call, ask LabelAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbPrint, ask, func(w *command.UnitOfWork) error {
		s, found, err := w.Tx.ShipmentByNumber(ask.Shipment)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no shipment %s.", ask.Shipment)
		}
		if _, err := LockContents(w, s.ID); err != nil {
			return err
		}
		if s, _, err = w.Tx.ShipmentByNumber(ask.Shipment); err != nil {
			return err
		}
		if s.DispatchedAt != nil {
			return command.Conflict("Shipment %s has left %s; its labels are on it.", s.Number, w.Clock(*s.DispatchedAt))
		}
		rows, err := w.Tx.LabelsOfShipment(s.ID)
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			return command.Conflict("Shipment %s is empty. Pack something into it first.", s.Number)
		}
		ids := make(store.IDs, len(rows))
		for i, x := range rows {
			ids[i] = x.PackageID
		}
		w.AddDocument("shipment", s.Number)
		w.Say("Printing %s of %s.", words.Count(int64(len(rows)), "label"), s.Number)
		return printLabels(w, s.WarehouseID, ids)
	})
}

// printLabels gives packages of a warehouse new labels, makes those that they had void, and has them printed as one document.
func printLabels(w *command.UnitOfWork, house int64, packages store.IDs) error {
	id, err := w.Tx.CommandID()
	if err != nil {
		return err
	}
	prefix, err := w.Tx.CompanyPrefix()
	if err != nil {
		return err
	}
	revisions, err := w.Tx.LabelRevisions(packages)
	if err != nil {
		return err
	}
	if err := w.Tx.VoidLabels(packages, id, store.PrintedAgain); err != nil {
		return err
	}
	run := store.PrintRun{CommandID: id}
	if err := w.Tx.Create(&run); err != nil {
		return err
	}
	serials, err := w.Tx.NextSerials(len(packages))
	if err != nil {
		return err
	}
	rows := make([]store.Paper, len(packages))
	for i := range packages {
		code, err := shipping.SSCC(prefix, serials[i])
		if err != nil {
			return err
		}
		rows[i] = store.Paper{
			PrintRunID: run.ID, Place: i + 1, Kind: store.LabelPaper, Code: code, Revision: revisions[packages[i]] + 1,
			PackageID: &packages[i], WarehouseID: house,
		}
	}
	if err := store.CreateMany(w.Tx, rows); err != nil {
		return err
	}
	w.AddDocument("print run", fmt.Sprint(run.ID))
	return w.Tx.Enqueue(PrintDocument{Run: run.ID})
}

// drawLabels draws the labels of a document, if it is one of labels.
func (d *Desk) drawLabels(ctx context.Context, run int64, title string) (pdf []byte, pages int, is bool, err error) {
	r := d.Store.Read(ctx)
	rows, err := r.PapersOfRun(run)
	if err != nil || len(rows) == 0 || rows[0].PackageID == nil {
		return nil, 0, false, err
	}
	ids := make(store.IDs, len(rows))
	for i, p := range rows {
		ids[i] = *p.PackageID
	}
	of, err := r.LabelsOfPackages(ids)
	if err != nil {
		return nil, 0, true, err
	}
	houses, err := r.Warehouses()
	if err != nil {
		return nil, 0, true, err
	}
	names, zones := map[int64]string{}, map[int64]*time.Location{}
	for _, h := range houses {
		names[h.ID] = fmt.Sprintf("%s (%s)", h.Name, h.Code)
		if zones[h.ID], err = d.supply.ZoneOf(h); err != nil {
			return nil, 0, true, err
		}
	}
	labels := make([]papers.Label, len(rows))
	for i, p := range rows {
		x := of[*p.PackageID] // without anything, if it was emptied since: then the label is void
		labels[i] = papers.Label{
			SSCC: p.Code, From: names[p.WarehouseID], Place: fmt.Sprintf("%d of %d", x.Place, x.Of),
			To: []string{x.ShipToName, x.Street, strings.TrimSpace(x.City + " " + x.Postcode), x.Country},
			Facts: []papers.Fact{
				{Name: "Service", Value: x.Service},
				{Name: "Weight", Value: kilos(x.WeightG)},
				{Name: "Shipment", Value: x.Shipment},
				{Name: "Package", Value: fmt.Sprintf("%s, %s", p.Package, x.Kind)},
				{Name: "Orders", Value: x.Orders},
				{Name: "Your order", Value: x.Refs},
			},
			Note: fmt.Sprintf(
				"Void once a later one is printed or something is taken out. Printed for %s, %s.", p.Who,
				p.At.In(zones[p.WarehouseID]).Format(printedAt),
			),
		}
	}
	pdf, pages, err = papers.DrawLabels(title, d.Now(), labels)
	return pdf, pages, true, err
}
