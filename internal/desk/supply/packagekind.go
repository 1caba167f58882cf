package supply

import "journeyman/internal/store"

// PackageKind is a kind of carton or pallet.
type PackageKind struct {
	Code     string `json:"code" minLength:"1" maxLength:"12" doc:"What is scanned to take one"`
	Name     string `json:"name" minLength:"1" maxLength:"40"`
	Pallet   bool   `json:"pallet,omitempty"`
	LengthMM int    `json:"length_mm" minimum:"1" maximum:"20000" doc:"Inside, in millimetres"`
	WidthMM  int    `json:"width_mm" minimum:"1" maximum:"20000"`
	HeightMM int    `json:"height_mm" minimum:"1" maximum:"20000"`
	TareG    int64  `json:"tare_g" minimum:"0" maximum:"1000000000" doc:"What it weighs empty, in grams"`
	MostG    int64  `json:"most_g" minimum:"1" maximum:"1000000000" doc:"What it may weigh with its goods"`
}

// PackageKinds are the kinds of packages as pages show them.
func PackageKinds(kinds []store.PackageKind) []PackageKind {
	out := make([]PackageKind, len(kinds))
	for i, k := range kinds {
		out[i] = PackageKind{k.Code, k.Name, k.Pallet, k.LengthMM, k.WidthMM, k.HeightMM, k.TareG, k.MostG}
	}
	return out
}
