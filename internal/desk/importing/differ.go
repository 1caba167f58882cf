package importing

import "fmt"

// differ lists what two records say differently, as "name: here → in the file".
type differ []string

func (d *differ) text(name, here, there string) {
	if here != there {
		*d = append(*d, fmt.Sprintf("%s: %s → %s", name, quoted(here), quoted(there)))
	}
}

func (d *differ) num(name string, here, there int64) {
	d.text(name, fmt.Sprint(here), fmt.Sprint(there))
}

func (d *differ) money(name string, here, there int64) {
	d.text(name, fmt.Sprintf("%d.%02d", here/100, here%100), fmt.Sprintf("%d.%02d", there/100, there%100))
}

func quoted(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}
