package words

import "testing"

func TestNumbersAreGrouped(t *testing.T) {
	t.Parallel()
	for n, want := range map[int64]string{
		0: "0 units", 1: "1 unit", 999: "999 units", 1000: "1,000 units", 12345: "12,345 units", 1234567: "1,234,567 units",
		-999: "-999 units", -1000: "-1,000 units",
	} {
		if got := Count(n, "unit").String(); got != want {
			t.Errorf("%s, want %s", got, want)
		}
	}
}
