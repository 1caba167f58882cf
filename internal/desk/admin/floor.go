package admin

import (
	"context"
	"strings"

	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// FloorView is how the floor of a warehouse is laid out and how quickly it works: what lengths and times of picking are reckoned with.
type FloorView struct {
	AisleCM  int `json:"aisle_cm" minimum:"10" maximum:"10000" doc:"From aisle to aisle, in centimetres"`
	PlaceCM  int `json:"place_cm" minimum:"10" maximum:"10000" doc:"From place to place in an aisle, in centimetres"`
	WalkMMin int `json:"walk_m_min" minimum:"1" maximum:"1000" doc:"Metres walked in a minute"`
	RowS     int `json:"row_s" minimum:"0" maximum:"3600" doc:"Seconds for a row of a pick list: to find the bin, read and confirm"`
	UnitMS   int `json:"unit_ms" minimum:"0" maximum:"3600000" doc:"Milliseconds to take a unit"`
	PalletKG int `json:"pallet_kg" minimum:"1" maximum:"100000" doc:"What a pallet carries, in kilograms"`
	PalletL  int `json:"pallet_l" minimum:"1" maximum:"100000" doc:"What stands on a pallet, in litres"`
}

func floorOf(h store.Warehouse) FloorView {
	return FloorView{h.AisleCM, h.PlaceCM, h.WalkMMin, h.RowS, h.UnitMS, h.PalletKG, h.PalletL}
}

// FloorAsk says how the floor of a warehouse is laid out and how quickly it works.
type FloorAsk struct {
	Warehouse string `json:"warehouse" maxLength:"12"`
	FloorView
}

// SetFloor says how the floor of a warehouse is laid out and how quickly it works. Lists that are on the floor keep what was reckoned.
//
// It locks nothing: the last one counts. It refuses lengths, speeds and loads that no floor has.
func (d *Desk) SetFloor(ctx context.Context, call command.Call, ask FloorAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		h, err := w.Warehouse(ask.Warehouse)
		if err != nil {
			return err
		}
		for _, x := range []struct {
			what                string
			is, least, greatest int
		}{
			{"From aisle to aisle it is", ask.AisleCM, 10, 10_000},
			{"From place to place it is", ask.PlaceCM, 10, 10_000},
			{"The metres walked in a minute are", ask.WalkMMin, 1, 1000},
			{"The seconds for a row are", ask.RowS, 0, 3600},
			{"The milliseconds for a unit are", ask.UnitMS, 0, 3_600_000},
			{"The kilograms on a pallet are", ask.PalletKG, 1, 100_000},
			{"The litres on a pallet are", ask.PalletL, 1, 100_000},
		} {
			if x.is < x.least || x.is > x.greatest {
				return command.Invalid("%s from %d to %d, not %d.", x.what, x.least, x.greatest, x.is)
			}
		}
		h.AisleCM, h.PlaceCM, h.WalkMMin, h.RowS, h.UnitMS = ask.AisleCM, ask.PlaceCM, ask.WalkMMin, ask.RowS, ask.UnitMS
		h.PalletKG, h.PalletL = ask.PalletKG, ask.PalletL
		w.Say("Picking at %s is reckoned as you said from now on.", h.Code)
		return w.Tx.SetFloor(h)
	})
}

// ServiceAsk says when the carrier of a service comes.
type ServiceAsk struct {
	Service string `json:"service" maxLength:"40"`
	CutOff  string `json:"cut_off" maxLength:"5" doc:"As 16:00; empty for the cut-off of the warehouse"`
}

// SetService says when the carrier of a service comes.
//
// It locks nothing: the last one counts. It refuses services that there are not, and what is no time of day.
func (d *Desk) SetService(ctx context.Context, call command.Call, ask ServiceAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		minutes, err := readCutOff(ask.CutOff)
		if err != nil {
			return err
		}
		services, err := w.Tx.Services()
		if err != nil {
			return err
		}
		for _, s := range services {
			if strings.EqualFold(s.Code, ask.Service) {
				w.Say("The carrier of %s comes at %s.", s.Code, ask.CutOff)
				if minutes == 0 {
					w.Say("%s goes by the cut-off of its warehouse.", s.Name)
				}
				return w.Tx.SetCutOff(s.Code, minutes)
			}
		}
		return command.NotFound("There is no service %s.", ask.Service)
	})
}
