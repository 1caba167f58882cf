package journey

import "fmt"

// ShipRule says in which pieces an order may leave.
type ShipRule string

// The ship rules.
const (
	ShipAny   ShipRule = "any"   // send what there is
	ShipLines ShipRule = "lines" // a line goes only whole
	ShipWhole ShipRule = "whole" // all in one go
)

// ParseShipRule returns the rule of that name, or an error that lists the names.
func ParseShipRule(s string) (ShipRule, error) {
	switch r := ShipRule(s); r {
	case ShipAny, ShipLines, ShipWhole:
		return r, nil
	}
	return "", fmt.Errorf("%q is not a ship rule: any, lines or whole", s)
}
