// Package papers draws what is printed: sheets with a code that a scanner reads, a head and a table, as one PDF document (ISO 32000) on A4.
// It knows nothing of what stands on them.
package papers

import (
	"bytes"
	"fmt"
	"time"

	"github.com/johnfercher/maroto/v2"
	"github.com/johnfercher/maroto/v2/pkg/components/code"
	"github.com/johnfercher/maroto/v2/pkg/components/col"
	"github.com/johnfercher/maroto/v2/pkg/components/page"
	"github.com/johnfercher/maroto/v2/pkg/components/row"
	"github.com/johnfercher/maroto/v2/pkg/components/text"
	"github.com/johnfercher/maroto/v2/pkg/config"
	"github.com/johnfercher/maroto/v2/pkg/consts/align"
	"github.com/johnfercher/maroto/v2/pkg/consts/border"
	"github.com/johnfercher/maroto/v2/pkg/consts/breakline"
	"github.com/johnfercher/maroto/v2/pkg/consts/fontstyle"
	"github.com/johnfercher/maroto/v2/pkg/core"
	"github.com/johnfercher/maroto/v2/pkg/props"
	"github.com/johnfercher/maroto/v2/pkg/repository"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Sheet is one paper: as many pages as its table takes, each with its head and its code.
type Sheet struct {
	Title   string
	Code    string // drawn as Code 128 (ISO/IEC 15417) and readable below it
	Facts   []Fact // beside the code, two in a row
	Columns []Column
	Rows    [][]string // a text for each column
	Note    string     // at the foot of each page
}

// Fact is something said of the whole sheet.
type Fact struct{ Name, Value string }

// Column is a column of the table.
type Column struct {
	Title string
	Width int  // in twenty-fourths of the page
	Right bool // numbers
	Bold  bool
}

const (
	grid       = 24
	headHeight = 24
	factHeight = 6
	factWidth  = 7 // of the 8 that it has, since it is larger than the table
	rowHeight  = 7.5
	footHeight = 6
	margin     = 12
	pageHeight = 297 - 2*margin - 2 // less what rounding takes
)

// Draw returns the sheets as one document, and how many pages it has. It takes some milliseconds a page.
func Draw(title string, at time.Time, sheets []Sheet) (pdf []byte, pages int, err error) {
	b, err := builder(title, at)
	if err != nil {
		return nil, 0, err
	}
	m := maroto.New(b.WithMaxGridSize(grid).WithLeftMargin(margin).WithRightMargin(margin).WithTopMargin(margin).
		WithBottomMargin(margin).Build())
	for _, s := range sheets {
		drawn := s.pages()
		pages += len(drawn)
		m.AddPages(drawn...)
	}
	doc, err := m.Generate()
	if err != nil {
		return nil, 0, fmt.Errorf("draw %s: %w", title, err)
	}
	return doc.GetBytes(), pages, nil
}

// builder is how a document begins: its fonts, and what it says of itself.
func builder(title string, at time.Time) (config.Builder, error) {
	// Copies for this document alone: what embeds a font writes into its bytes, and documents are drawn at once.
	fonts, err := repository.New().
		AddUTF8FontFromBytes("go", fontstyle.Normal, bytes.Clone(goregular.TTF)).
		AddUTF8FontFromBytes("go", fontstyle.Bold, bytes.Clone(gobold.TTF)).
		AddUTF8FontFromBytes("go", fontstyle.Italic, bytes.Clone(goregular.TTF)).
		AddUTF8FontFromBytes("go", fontstyle.BoldItalic, bytes.Clone(gobold.TTF)).Load()
	if err != nil {
		return nil, err
	}
	return config.NewBuilder().WithCustomFonts(fonts).WithDefaultFont(&props.Font{Family: "go", Size: 9}).WithTitle(title, true).
		WithCreator("Journeyman", true).WithCreationDate(at).WithCompression(true).WithSequentialMode(), nil
}

// fits is how many rows of the table a page has room for.
func (s Sheet) fits() int {
	facts := (len(s.Facts) + 1) / 2
	return int((pageHeight - headHeight - float64(facts)*factHeight - rowHeight - footHeight) / rowHeight)
}

func (s Sheet) pages() []core.Page {
	var out []core.Page
	fits := s.fits()
	of := max(1, (len(s.Rows)+fits-1)/fits)
	for n := range of {
		rows := s.Rows[min(len(s.Rows), n*fits):min(len(s.Rows), (n+1)*fits)]
		p := page.New().Add(s.head(n+1, of)).Add(s.facts()...).Add(s.titles())
		for i, r := range rows {
			p.Add(s.row(r, i%2 == 1))
		}
		if space := float64(fits-len(rows)) * rowHeight; space > 0 {
			p.Add(row.New(space))
		}
		out = append(out, p.Add(row.New(footHeight).Add(
			text.NewCol(grid, s.Note, props.Text{Size: 7.5, Top: 2, Color: grey}),
		)))
	}
	return out
}

var (
	grey  = &props.Color{Red: 93, Green: 104, Blue: 115}
	pale  = &props.Color{Red: 243, Green: 245, Blue: 243}
	line  = &props.Color{Red: 190, Green: 196, Blue: 190}
	plain = props.Text{Top: 1.8, Left: 1, Right: 1, Size: 9, BreakLineStrategy: breakline.EmptySpaceStrategy}
)

func (s Sheet) head(n, of int) core.Row {
	sheet := ""
	if of > 1 {
		sheet = fmt.Sprintf("Page %d of %d", n, of)
	}
	return row.New(headHeight).Add(
		col.New(14).Add(
			text.New(s.Title, props.Text{Size: 17, Style: fontstyle.Bold, Top: 1}),
			text.New(sheet, props.Text{Size: 9, Top: 11, Color: grey}),
		),
		col.New(10).Add(
			code.NewBar(s.Code, props.Barcode{Percent: 96, Proportion: props.Proportion{Width: 20, Height: 4}}),
			text.New(s.Code, props.Text{Size: 10, Top: 16.5, Align: align.Center}),
		),
	)
}

func (s Sheet) facts() []core.Row {
	var out []core.Row
	for i := 0; i < len(s.Facts); i += 2 {
		r := row.New(factHeight)
		for _, f := range s.Facts[i:min(len(s.Facts), i+2)] {
			r.Add(
				text.NewCol(4, f.Name, props.Text{Size: 8.5, Color: grey, Top: 1}),
				text.NewCol(8, fitting(f.Value, Column{Width: factWidth}), props.Text{Size: 9.5, Top: 0.8}),
			)
		}
		out = append(out, r)
	}
	return out
}

func (s Sheet) titles() core.Row {
	r := row.New(rowHeight).WithStyle(&props.Cell{BorderType: border.Bottom, BorderColor: line})
	for _, c := range s.Columns {
		style := plain
		style.Size, style.Color, style.Align = 8, grey, alignOf(c)
		r.Add(text.NewCol(c.Width, c.Title, style))
	}
	return r
}

func (s Sheet) row(values []string, striped bool) core.Row {
	cell := &props.Cell{BorderType: border.Bottom, BorderColor: line, BorderThickness: 0.1}
	if striped {
		cell.BackgroundColor = pale
	}
	r := row.New(rowHeight).WithStyle(cell)
	for i, c := range s.Columns {
		style := plain
		style.Align = alignOf(c)
		if c.Bold {
			style.Style, style.Size = fontstyle.Bold, 10
		}
		r.Add(text.NewCol(c.Width, fitting(values[i], c), style))
	}
	return r
}

// fitting is a text cut to what a column has room for: what does not fit would be written over the next row.
func fitting(s string, c Column) string {
	most := c.Width * 5 // characters of 9 points in a column
	if c.Bold {
		most = c.Width * 4
	}
	r := []rune(s)
	if len(r) <= most {
		return s
	}
	return string(r[:most-1]) + "…"
}

func alignOf(c Column) align.Type {
	if c.Right {
		return align.Right
	}
	return align.Left
}
