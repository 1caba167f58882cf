package papers_test

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"journeyman/core/shipping"
	"journeyman/internal/papers"
)

func sheet(code string, rows int) papers.Sheet {
	s := papers.Sheet{
		Title: "Pick list " + code, Code: code, Note: "Void once a later revision is printed.",
		Facts: []papers.Fact{{Name: "Warehouse", Value: "Harrow Lane"}, {Name: "To pick", Value: "9 rows"}, {Name: "Zone", Value: "C"}},
		Columns: []papers.Column{
			{Title: "Bin", Width: 4, Bold: true}, {Title: "Units", Width: 3, Right: true}, {Title: "Item", Width: 12}, {Title: "Picked", Width: 5},
		},
	}
	for i := range rows {
		bin, item := fmt.Sprintf("C-%02d-%d", i/9, i%9), fmt.Sprintf("Glaze %d “Żółć” – 1 L", i)
		s.Rows = append(s.Rows, []string{bin, fmt.Sprint(i + 1), item, ""})
	}
	return s
}

// run runs a program of Debian's packages that reads back what was drawn.
func run(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.CommandContext(context.Background(), name, args...).Output()
	if err != nil {
		t.Fatalf("%s: %v (`make tools` installs it)", name, err)
	}
	return string(out)
}

// What is drawn is read back by programs that know nothing of us: the text by pdftotext, the codes by zbarimg from rendered pages.
func TestWhatIsDrawnIsReadBack(t *testing.T) {
	t.Parallel()
	pdf, pages, err := papers.Draw("Pick lists", time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC), []papers.Sheet{
		sheet("PL-2001-R1", 70), sheet("PL-2002-R13", 3), sheet("SO-10401-P2", 0),
	})
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "lists.pdf")
	if err := os.WriteFile(file, pdf, 0o600); err != nil {
		t.Fatal(err)
	}
	text := run(t, "pdftotext", "-layout", file, "-")
	drawn := strings.Split(strings.TrimSuffix(text, "\f"), "\f")
	if len(drawn) != pages || pages != 5 {
		t.Fatalf("%d pages are drawn, %d were said", len(drawn), pages)
	}
	for i := range 70 {
		if !strings.Contains(text, fmt.Sprintf("Glaze %d “Żółć” – 1 L", i)) {
			t.Errorf("row %d is missing", i)
		}
	}
	run(t, "pdftoppm", "-r", "100", "-png", file, strings.TrimSuffix(file, ".pdf"))
	for i, want := range []struct{ code, page string }{
		{"PL-2001-R1", "Page 1 of 3"}, {"PL-2001-R1", "Page 2 of 3"}, {"PL-2001-R1", "Page 3 of 3"}, {"PL-2002-R13", ""}, {"SO-10401-P2", ""},
	} {
		if !strings.Contains(drawn[i], want.code) || !strings.Contains(drawn[i], want.page) || !strings.Contains(drawn[i], "Void once") {
			t.Errorf("page %d:\n%s", i+1, drawn[i])
		}
		read := run(t, "zbarimg", "-q", "--raw", fmt.Sprintf("%s-%d.png", strings.TrimSuffix(file, ".pdf"), i+1))
		if strings.TrimSpace(read) != want.code {
			t.Errorf("page %d: the code reads %q", i+1, read)
		}
	}
}

// The race detector finds what documents that are drawn at once would share.
func TestDocumentsAreDrawnAtOnce(t *testing.T) {
	t.Parallel()
	failed := make(chan error)
	for i := range 4 {
		go func() {
			_, _, err := papers.Draw("Pick lists", time.Now(), []papers.Sheet{sheet(fmt.Sprintf("PL-%d-R1", i), 40)})
			failed <- err
		}()
	}
	for range 4 {
		if err := <-failed; err != nil {
			t.Error(err)
		}
	}
}

func TestWhatDoesNotFitIsCut(t *testing.T) {
	t.Parallel()
	s := sheet("PL-1-R1", 1)
	s.Rows[0][2] = strings.Repeat("very long ", 20)
	pdf, _, err := papers.Draw("x", time.Now(), []papers.Sheet{s})
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "x.pdf")
	if err := os.WriteFile(file, pdf, 0o600); err != nil {
		t.Fatal(err)
	}
	if text := run(t, "pdftotext", "-layout", file, "-"); !strings.Contains(text, "very long v…") && !strings.Contains(text, "…") {
		t.Errorf("%s", text)
	}
}

func BenchmarkAPage(b *testing.B) {
	for b.Loop() {
		if _, _, err := papers.Draw("x", time.Now(), []papers.Sheet{sheet("PL-2001-R1", 25)}); err != nil {
			b.Fatal(err)
		}
	}
}

func TestALabelIsReadBack(t *testing.T) {
	t.Parallel()
	code, err := shipping.SSCC("7610425", 2123456)
	if err != nil {
		t.Fatal(err)
	}
	label := papers.Label{
		SSCC: code, From: "Harrow Lane (HL)", Place: "2 of 3", Note: "Void once a later one is printed.",
		To:    []string{"Łódź Pottery with a name that is longer than there is room for", "12 Kiln Street", "Emberly EM5 5HH", "GB"},
		Facts: []papers.Fact{{Name: "Service", Value: "pallet"}, {Name: "Shipment", Value: "SH-5001"}, {Name: "Weight", Value: "186.0 kg"}},
	}
	pdf, pages, err := papers.DrawLabels("Labels", time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC), []papers.Label{label, label})
	if err != nil || pages != 2 {
		t.Fatal(pages, err)
	}
	file := filepath.Join(t.TempDir(), "labels.pdf")
	if err := os.WriteFile(file, pdf, 0o600); err != nil {
		t.Fatal(err)
	}
	text := run(t, "pdftotext", "-layout", file, "-")
	if drawn := strings.Split(strings.TrimSuffix(text, "\f"), "\f"); len(drawn) != pages {
		t.Fatalf("%d pages:\n%s", len(drawn), text)
	}
	for _, want := range []string{"Łódź Pottery", "12 Kiln Street", "2 of 3", "SH-5001", "(00) " + code, "Void once"} {
		if !strings.Contains(text, want) {
			t.Errorf("%q is missing:\n%s", want, text)
		}
	}
	// 203 dots an inch is what common label printers have.
	run(t, "pdftoppm", "-r", "203", "-png", file, strings.TrimSuffix(file, ".pdf"))
	read := strings.TrimSpace(run(t, "zbarimg", "-q", "--raw", strings.TrimSuffix(file, ".pdf")+"-1.png"))
	if got, ok := shipping.ReadSSCC(read); !ok || got != code {
		t.Errorf("the code reads %q", read)
	}
}
