package book

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"journeyman/core/days"
)

// Fault is what is wrong with a book file and where.
type Fault struct {
	Path string // such as orders[3].lines[0].sku; empty for the file as a whole
	What string
}

func (f *Fault) Error() string {
	if f.Path == "" {
		return f.What
	}
	return f.Path + ": " + f.What
}

func fault(format string, args ...any) error { return &Fault{What: fmt.Sprintf(format, args...)} }

// under puts a step before the path of a fault. Other errors become faults.
func under(err error, step string) error {
	if err == nil {
		return nil
	}
	var f *Fault
	if !errors.As(err, &f) {
		f = &Fault{What: err.Error()}
	}
	if f.Path != "" && !strings.HasPrefix(f.Path, "[") {
		step += "."
	}
	return &Fault{Path: step + f.Path, What: f.What}
}

// scan reads JSON value by value.
type scan struct{ dec *json.Decoder }

func newScan(r io.Reader) *scan {
	s := &scan{json.NewDecoder(r)}
	s.dec.UseNumber()
	return s
}

func (s *scan) token() (json.Token, error) {
	t, err := s.dec.Token()
	return t, notJSON(err)
}

// raw reads a value of any kind without looking into it.
func (s *scan) raw() (json.RawMessage, error) {
	var raw json.RawMessage
	err := s.dec.Decode(&raw)
	return raw, notJSON(err)
}

func notJSON(err error) error {
	if err == nil {
		return nil
	}
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return fault("the file ends in the middle")
	}
	return fault("this is not JSON: %s", strings.TrimPrefix(err.Error(), "json: "))
}

func told(t json.Token) string {
	switch v := t.(type) {
	case nil:
		return "null"
	case string:
		if len(v) > 40 {
			v = strings.ToValidUTF8(v[:40], "") + "…"
		}
		return strconv.Quote(v)
	case json.Delim:
		if v == '{' {
			return "an object"
		}
		return "a list"
	}
	return fmt.Sprint(t)
}

// object reads an object and calls each for every name, which has to read the value.
func (s *scan) object(each func(name string) error) error {
	t, err := s.token()
	if err != nil {
		return err
	}
	if t != json.Delim('{') {
		return fault("an object is expected, not %s", told(t))
	}
	var room [16]string
	seen := room[:0]
	for s.dec.More() {
		t, err := s.token()
		if err != nil {
			return err
		}
		name, ok := t.(string)
		if !ok {
			return fault("a name is expected, not %s", told(t))
		}
		for _, before := range seen {
			if before == name {
				return under(fault("stands there twice"), name)
			}
		}
		seen = append(seen, name)
		if err := each(name); err != nil {
			return under(err, name)
		}
	}
	_, err = s.token()
	return err
}

// list reads a list and calls each for every element, which has to read it.
func (s *scan) list(each func() error) error {
	t, err := s.token()
	if err != nil {
		return err
	}
	if t != json.Delim('[') {
		return fault("a list is expected, not %s", told(t))
	}
	for i := 0; s.dec.More(); i++ {
		if err := each(); err != nil {
			return under(err, "["+strconv.Itoa(i)+"]")
		}
	}
	_, err = s.token()
	return err
}

func (s *scan) text(to *string) error {
	t, err := s.token()
	if err != nil {
		return err
	}
	v, ok := t.(string)
	if !ok {
		return fault("a text is expected, not %s", told(t))
	}
	switch {
	case strings.ContainsRune(v, utf8.RuneError): // what the decoder puts in place of broken text
		return fault("is not text in UTF-8")
	case strings.ContainsFunc(v, unicode.IsControl):
		return fault("must not hold control characters")
	}
	*to = v
	return nil
}

// name reads a text that is not empty.
func (s *scan) name(to *string) error {
	if err := s.text(to); err != nil {
		return err
	}
	if *to == "" {
		return fault("must not be empty")
	}
	return nil
}

func (s *scan) boolean(to *bool) error {
	t, err := s.token()
	if err != nil {
		return err
	}
	v, ok := t.(bool)
	if !ok {
		return fault("true or false is expected, not %s", told(t))
	}
	*to = v
	return nil
}

// whole reads a whole number between least and most.
func (s *scan) whole(to *int64, least, most int64) error {
	t, err := s.token()
	if err != nil {
		return err
	}
	v, ok := t.(json.Number)
	if !ok {
		return fault("a whole number is expected, not %s", told(t))
	}
	n, err := strconv.ParseInt(string(v), 10, 64)
	switch {
	case errors.Is(err, strconv.ErrRange):
		return fault("%s is too large", v)
	case err != nil:
		return fault("a whole number is expected, not %s", v)
	case n < 0 && least >= 0:
		return fault("must not be negative, and is %d", n)
	case n < least || n > most:
		return fault("must lie between %d and %d, and is %d", least, most, n)
	}
	*to = n
	return nil
}

func (s *scan) qty(to *int64) error { return s.whole(to, 0, MostUnits) }

func (s *scan) small(to *int32, least, most int64) error {
	var n int64
	err := s.whole(&n, least, most)
	*to = int32(n)
	return err
}

func (s *scan) day(to *days.Day) error {
	var v string
	if err := s.text(&v); err != nil {
		return err
	}
	d, err := days.Parse(v)
	if err != nil {
		return err
	}
	*to = d
	return nil
}

// moment reads a time of RFC 3339, or a day, into microseconds since 1970.
func (s *scan) moment(to *int64) error {
	var v string
	if err := s.text(&v); err != nil {
		return err
	}
	if t, err := time.Parse(time.RFC3339, v); err == nil {
		*to = t.UnixMicro()
		return nil
	}
	d, err := days.Parse(v)
	if err != nil {
		return fault("%s is not a time: 2027-02-20T09:00:00Z or 2027-02-20", strconv.Quote(v))
	}
	*to = d.Time().UnixMicro()
	return nil
}

func unknown(names ...string) error {
	return fault("there is no such field; there are %s", strings.Join(names, ", "))
}
