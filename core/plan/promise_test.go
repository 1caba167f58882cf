package plan

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"journeyman/core/book"
	"journeyman/core/policy"
)

// worked is the book of CORE's worked answers.
func worked(t testing.TB) *book.Book {
	t.Helper()
	f, err := os.Open(filepath.Join("..", "..", "examples", "book-1.json"))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = f.Close() }()
	b, err := book.Read(f)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// tell writes what a plan promises, a line of text for each order line.
func tell(b *book.Book, p *Plan) string {
	var s []string
	for i := range b.Lines {
		l := &b.Lines[i]
		if l.Open == 0 {
			continue
		}
		var parts []string
		for _, x := range p.PromisesOf(int32(i)) {
			parts = append(parts, fmt.Sprintf("%d %s %s", x.Qty, b.Warehouses[b.Cells[x.Cell].Warehouse], x.Day.String()[5:]))
		}
		if n := p.Lines[i].Short; n > 0 {
			parts = append(parts, fmt.Sprintf("short %d", n))
		}
		s = append(s, fmt.Sprintf("%s/%d: %s", b.Orders[l.Order].Number, l.No, strings.Join(parts, ", ")))
	}
	return strings.Join(s, "\n")
}

func TestThePromisesOfTheWorkedBook(t *testing.T) {
	keys := []policy.Key{policy.Tier, policy.Entered}
	for _, c := range []struct {
		why  string
		how  PromiseHow
		want string
	}{
		{"afresh", PromiseHow{Keys: keys}, `S1/1: 50 HL 03-17
S2/1: 76 HL 03-04, 14 HL 03-08
S3/1: 85 HL 03-17
S3/2: short 1
S4/1: 2 HL 03-08
S4/2: 10 HL 03-08`},
		{"keep", PromiseHow{Keys: keys, Keep: true}, `S1/1: 50 HL 03-03
S2/1: 26 HL 03-04, 64 HL 03-17
S3/1: 85 HL 03-17
S3/2: short 1
S4/1: 2 HL 03-08
S4/2: 10 HL 03-08`},
	} {
		b := worked(t)
		if got := tell(b, Promise(b, c.how)); got != c.want {
			t.Errorf("%s:\n%s\nwant\n%s", c.why, got, c.want)
		}
	}
}
