package choose

// above is what of a is above b, neither of which is negative.
func above(a, b int64) int64 { return max(0, a-b) }
