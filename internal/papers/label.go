package papers

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"time"

	"github.com/boombuler/barcode"
	"github.com/boombuler/barcode/code128"
	"github.com/johnfercher/maroto/v2"
	"github.com/johnfercher/maroto/v2/pkg/components/col"
	drawn "github.com/johnfercher/maroto/v2/pkg/components/image"
	"github.com/johnfercher/maroto/v2/pkg/components/page"
	"github.com/johnfercher/maroto/v2/pkg/components/row"
	"github.com/johnfercher/maroto/v2/pkg/components/text"
	"github.com/johnfercher/maroto/v2/pkg/consts/align"
	"github.com/johnfercher/maroto/v2/pkg/consts/extension"
	"github.com/johnfercher/maroto/v2/pkg/consts/fontstyle"
	"github.com/johnfercher/maroto/v2/pkg/core"
	"github.com/johnfercher/maroto/v2/pkg/props"
)

// Label is what sticks on a carton or pallet: where it goes, and its SSCC as a GS1-128 bar code (GS1 General Specifications, application
// identifier 00) and in figures.
type Label struct {
	SSCC  string
	To    []string // the address, a line each; the first is whose it is
	From  string
	Place string // such as "2 of 3"
	Facts []Fact
	Note  string
}

const (
	labelWidth  = 105 // A6, in millimetres
	labelHeight = 148
	labelMargin = 4
	labelGrid   = 12
	moduleWidth = 4  // pixels of the picture that a module of the code takes
	quiet       = 10 // modules that stay white at each side
)

// DrawLabels returns the labels as one document, a page each.
func DrawLabels(title string, at time.Time, labels []Label) (pdf []byte, pages int, err error) {
	b, err := builder(title, at)
	if err != nil {
		return nil, 0, err
	}
	m := maroto.New(b.WithDimensions(labelWidth, labelHeight).WithMaxGridSize(labelGrid).WithLeftMargin(labelMargin).
		WithRightMargin(labelMargin).WithTopMargin(labelMargin).WithBottomMargin(labelMargin).Build())
	for _, l := range labels {
		code, err := gs1(l.SSCC)
		if err != nil {
			return nil, 0, fmt.Errorf("draw %s: %w", l.SSCC, err)
		}
		m.AddPages(l.page(code))
	}
	doc, err := m.Generate()
	if err != nil {
		return nil, 0, fmt.Errorf("draw %s: %w", title, err)
	}
	return doc.GetBytes(), len(labels), nil
}

func (l Label) page(code []byte) core.Page {
	const lines = 4
	p := page.New().Add(row.New(9).Add(
		text.NewCol(9, "From "+l.From, props.Text{Size: 8, Color: grey, Top: 1}),
		text.NewCol(3, l.Place, props.Text{Size: 13, Style: fontstyle.Bold, Align: align.Right}),
	))
	for i := range lines {
		value := ""
		if i < len(l.To) {
			value = l.To[i]
		}
		style := props.Text{Size: 12, Top: 0.5}
		if i == 0 {
			style.Style, style.Size = fontstyle.Bold, 14
		}
		p.Add(row.New(7).Add(text.NewCol(labelGrid, shortened(value, 38), style)))
	}
	p.Add(row.New(3))
	for i := 0; i < len(l.Facts); i += 2 {
		r := row.New(10)
		for _, f := range l.Facts[i:min(len(l.Facts), i+2)] {
			r.Add(col.New(6).Add(
				text.New(f.Name, props.Text{Size: 7, Color: grey}),
				text.New(shortened(f.Value, 24), props.Text{Size: 10, Top: 3.2, Style: fontstyle.Bold}),
			))
		}
		p.Add(r)
	}
	return p.Add(
		row.New(3),
		row.New(38).Add(drawn.NewFromBytesCol(labelGrid, code, extension.Png, props.Rect{Percent: 100, Center: true})),
		row.New(8).Add(text.NewCol(labelGrid, "(00) "+l.SSCC, props.Text{Size: 13, Align: align.Center, Top: 1})),
		row.New(5).Add(text.NewCol(labelGrid, l.Note, props.Text{Size: 6.5, Color: grey, Top: 1})),
	)
}

// shortened is a text cut to so many characters.
func shortened(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}

// gs1 draws an SSCC as a GS1-128 bar code: Code 128 (ISO/IEC 15417) that begins with the function character 1, with the white that a
// scanner needs at both sides.
func gs1(sscc string) ([]byte, error) {
	code, err := code128.Encode(string(code128.FNC1) + "00" + sscc)
	if err != nil {
		return nil, err
	}
	const height = 240
	width := code.Bounds().Dx() * moduleWidth
	wide, err := barcode.Scale(code, width, height)
	if err != nil {
		return nil, err
	}
	space := quiet * moduleWidth
	out := image.NewGray(image.Rect(0, 0, width+2*space, height))
	draw.Draw(out, out.Bounds(), image.NewUniform(color.White), image.Point{}, draw.Src)
	draw.Draw(out, image.Rect(space, 0, space+width, height), wide, wide.Bounds().Min, draw.Src)
	var b bytes.Buffer
	err = png.Encode(&b, out)
	return b.Bytes(), err
}
