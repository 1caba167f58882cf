package release

// Totes returns into which tote the units of each order on a pick list go: one for each order, lettered A to Z, then AA, AB and so on, in
// the order in which they first come. orders are those of all rows of the list, recalled ones too, so that a tote keeps its letter.
func Totes(orders []string) map[string]string {
	out := map[string]string{}
	for _, o := range orders {
		if out[o] == "" {
			out[o] = letters(len(out))
		}
	}
	return out
}

// letters is A to Z, then AA, AB and so on.
func letters(n int) string {
	if n < 26 {
		return string(rune('A' + n))
	}
	return letters(n/26-1) + letters(n%26)
}
