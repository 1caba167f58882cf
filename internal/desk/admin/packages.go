package admin

import (
	"context"
	"regexp"
	"slices"
	"strings"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

var coded = regexp.MustCompile(`^[A-Z0-9][A-Z0-9-]{0,11}$`)

// SetPackageKind adds a kind of carton or pallet, or changes the one of its code. Packages that were made keep what they are.
//
// It locks nothing: the last one counts. It refuses a code that cannot be scanned, a name that another has, and an empty weight that is
// not below the greatest.
func (d *Desk) SetPackageKind(ctx context.Context, call command.Call, ask supply.PackageKind) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		code, name := strings.ToUpper(strings.TrimSpace(ask.Code)), strings.TrimSpace(ask.Name)
		switch {
		case !coded.MatchString(code):
			return command.Invalid("“%s” is no code: type up to 12 capital letters, digits and hyphens, such as BOX-M.", ask.Code)
		case name == "":
			return command.Invalid("Say what the kind of package is called.")
		case ask.TareG >= ask.MostG:
			return command.Invalid("A package must be able to weigh more than it does empty.")
		}
		kinds, err := w.Tx.PackageKinds()
		if err != nil {
			return err
		}
		if slices.ContainsFunc(kinds, func(k store.PackageKind) bool { return k.Name == name && k.Code != code }) {
			return command.Conflict("Another kind of package is called %s. Give each its own name.", name)
		}
		w.Say("%s is packed as you said from now on.", name)
		return w.Tx.PutPackageKind(store.PackageKind{
			Code: code, Name: name, Pallet: ask.Pallet, LengthMM: ask.LengthMM, WidthMM: ask.WidthMM, HeightMM: ask.HeightMM, TareG: ask.TareG,
			MostG: ask.MostG,
		})
	})
}

// PackageKindNamed names a kind of carton or pallet.
type PackageKindNamed struct {
	Code string `json:"code" maxLength:"12"`
}

// DropPackageKind takes a kind of carton or pallet away: nothing new is packed into it. It refuses one that there is not.
func (d *Desk) DropPackageKind(ctx context.Context, call command.Call, ask PackageKindNamed) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettings, ask, func(w *command.UnitOfWork) error {
		if _, err := w.Tx.CommandID(); err != nil {
			return err
		}
		found, err := w.Tx.DropPackageKind(ask.Code)
		if err == nil && !found {
			err = command.NotFound("There is no kind of package %s.", ask.Code)
		}
		w.Say("Nothing is packed into %s any more.", ask.Code)
		return err
	})
}
