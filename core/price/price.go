// Package price is the arithmetic of what a line is sold for. Amounts are whole minor units of
// one currency; rates are basis points, hundredths of a per cent.
package price

// Whole is a rate of 100 %, in basis points.
const Whole = 10_000

// Net returns the list price of a unit less a discount, rounded to the nearest minor unit, a
// half away from zero (commercial rounding; common practice, no source). The discount lies
// between 0 and Whole, the list price between 0 and 2^63 / Whole.
func Net(list int64, discount int) int64 {
	return (list*int64(Whole-discount) + Whole/2) / Whole
}

// Margin returns the share of the value that is not cost, in basis points, rounded towards
// zero. It is negative where the cost is greater. ok is false where nothing is sold for
// anything: then there is no margin.
func Margin(value, cost int64) (rate int64, ok bool) {
	if value <= 0 {
		return 0, false
	}
	return (value - cost) * Whole / value, true
}
