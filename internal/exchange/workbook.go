package exchange

import (
	"errors"
	"io"
	"os"
	"strings"

	"github.com/xuri/excelize/v2"

	"journeyman/internal/words"
)

// What is read of a workbook at most.
const (
	mostWorkbook = 64 << 20  // bytes of the file
	mostUnzipped = 512 << 20 // and of what it holds
	mostInMemory = 16 << 20  // of a sheet; a larger one is read from a temporary file
)

// scanWorkbook reads the sheets of an XLSX file (ISO/IEC 29500), each as a file of its own, and says whether whoever takes the rows wants
// more. Hidden sheets and empty ones are passed over.
func (b *Found) scanWorkbook(name string, in io.Reader, from *counting, reading Reading, yield func(Staged) bool) bool {
	from.left = mostWorkbook + 1
	kept, err := os.CreateTemp("", "workbook-*.xlsx")
	if err != nil {
		b.Err = err
		return true
	}
	defer func() {
		_ = kept.Close()
		_ = os.Remove(kept.Name())
	}()
	if _, err := io.Copy(kept, in); err != nil {
		if errors.Is(from.err, errLongRow) {
			b.Fault(Fault{File: name, Expected: words.Say("a workbook of at most %d MB: save it as CSV", mostWorkbook>>20)})
		} else {
			b.Err = err
		}
		return true
	}
	book, err := excelize.OpenFile(kept.Name(), excelize.Options{
		RawCellValue: true, UnzipSizeLimit: mostUnzipped, UnzipXMLSizeLimit: mostInMemory,
	})
	if err != nil {
		b.Fault(Fault{File: name, Expected: words.Say("a workbook (XLSX) that can be opened, without a password, or a CSV file")})
		return true
	}
	defer func() { _ = book.Close() }()
	var sheets []*sheet
	for _, title := range book.GetSheetList() {
		if visible, err := book.GetSheetVisible(title); err != nil || !visible {
			continue
		}
		rows, err := book.Rows(title)
		if err != nil {
			continue
		}
		s := &sheet{b: b, name: name + " · " + title, source: &rowsSource{b: b, rows: rows}, yield: yield, usual: Formats{YearFirst, Point}}
		defer func() { _ = rows.Close() }()
		if s.readAhead(1); len(s.ahead) > 0 {
			sheets = append(sheets, s)
		}
	}
	if len(sheets) == 0 {
		b.Fault(Fault{File: name, Expected: words.Say("a sheet with a first row that names the columns")})
	}
	for _, s := range sheets {
		if len(sheets) == 1 {
			s.name = name
		}
		s.source.(*rowsSource).name = s.name
		if going := s.scan(reading); !going || b.Err != nil {
			return going
		}
	}
	return true
}

// rowsSource reads the rows of a sheet that are not empty, all as wide as the first of them.
type rowsSource struct {
	b     *Found
	name  string
	rows  *excelize.Rows
	line  int
	width int
}

func (*rowsSource) typed() bool { return true }

func (s *rowsSource) record() (rec []string, line int, ok bool) {
	for s.rows.Next() {
		s.line++
		rec, err := s.rows.Columns()
		if err != nil {
			s.b.Fault(Fault{File: s.name, Row: s.line, Expected: words.Say("a sheet that can be read")})
			return nil, 0, false
		}
		for i, text := range rec {
			rec[i] = strings.ToValidUTF8(text, "�")
			if len(text) > mostRecord {
				s.b.Fault(Fault{File: s.name, Row: s.line, Expected: words.Say("cells of at most %d kB", mostRecord>>10)})
				return nil, 0, false
			}
		}
		if blank(rec) {
			continue
		}
		if s.width == 0 {
			for len(rec) > 0 && strings.TrimSpace(rec[len(rec)-1]) == "" {
				rec = rec[:len(rec)-1]
			}
			s.width = len(rec)
		}
		for len(rec) < s.width {
			rec = append(rec, "")
		}
		for len(rec) > s.width && strings.TrimSpace(rec[len(rec)-1]) == "" {
			rec = rec[:len(rec)-1]
		}
		return rec, s.line, true
	}
	return nil, 0, false
}
