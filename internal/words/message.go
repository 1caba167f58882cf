package words

import (
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"time"

	"journeyman/core/days"
)

// Message is what is said to a person. It travels as a code and what stands in it, so that whoever shows it makes the sentence in their
// own language and writes days, times and amounts as their locale does; and as an English text for the log and the command line.
type Message struct {
	pattern string // as fmt takes it
	args    []any
	told    *Said // as it was read from JSON
}

// Say makes a message. What stands in it may be text, whole numbers, Words, and messages.
func Say(pattern string, args ...any) Message { return Message{pattern: pattern, args: args} }

// Plain is a message that is text and nothing else: what a person wrote, or what is outside of our languages.
func Plain(text string) Message { return Say("%s", text) }

// And is one message after the other; an empty one counts for nothing.
func (m Message) And(next Message) Message {
	switch {
	case next.IsZero():
		return m
	case m.IsZero():
		return next
	}
	return Say("%s %s", m, next)
}

// IsZero tells whether nothing is said.
func (m Message) IsZero() bool { return m.pattern == "" && (m.told == nil || m.told.Text == "") }

// String is the message in English.
func (m Message) String() string {
	if m.told != nil {
		return m.told.Text
	}
	if len(m.args) == 0 {
		return m.pattern
	}
	return fmt.Sprintf(m.pattern, m.args...)
}

// Said is a message as it travels.
type Said struct {
	Code    string  `json:"code" doc:"Of the pattern, in catalogues"`
	Pattern string  `json:"pattern,omitempty" doc:"In English, as ICU writes it; absent if nothing stands in it"`
	Text    string  `json:"text" doc:"The whole in English"`
	Params  []Param `json:"params,omitempty" doc:"What stands in it, in order"`
}

// Param is one thing that stands in a message: one of text, a number, a day, a time, an amount, a message, or a list of messages.
type Param struct {
	Text     *string    `json:"text,omitempty"`
	Number   *int64     `json:"number,omitempty"`
	Day      string     `json:"day,omitempty" format:"date"`
	At       *time.Time `json:"at,omitempty"`
	Minor    *int64     `json:"minor,omitempty" doc:"An amount in the smallest unit of its currency"`
	Currency string     `json:"currency,omitempty"`
	Said     *Said      `json:"said,omitempty"`
	List     []Said     `json:"list,omitempty"`
	Between  string     `json:"between,omitempty" doc:"What stands between those in the list"`
}

// Said is the message as it travels.
func (m Message) Said() Said {
	if m.told != nil {
		return *m.told
	}
	icu := Pattern(m.pattern)
	out := Said{Code: Code(icu), Text: m.String()}
	if len(m.args) > 0 {
		out.Pattern = icu
	}
	for _, a := range m.args {
		out.Params = append(out.Params, param(a))
	}
	return out
}

func param(a any) Param {
	switch x := a.(type) {
	case Word:
		return x.param
	case Message:
		s := x.Said()
		return Param{Said: &s}
	}
	s := fmt.Sprint(a)
	if _, named := a.(fmt.Stringer); named {
		return Param{Text: &s}
	}
	if n, err := strconv.ParseInt(fmt.Sprintf("%d", a), 10, 64); err == nil {
		return number(n)
	}
	return Param{Text: &s}
}

func number(n int64) Param { return Param{Number: &n} }

// MarshalJSON writes it as it travels.
func (m Message) MarshalJSON() ([]byte, error) { return json.Marshal(m.Said()) }

// UnmarshalJSON reads it as it travels.
func (m *Message) UnmarshalJSON(text []byte) error {
	m.told = &Said{}
	return json.Unmarshal(text, m.told)
}

var verb = regexp.MustCompile(`%(?:\[(\d+)\])?(?:%|[a-z])`)

// Pattern is a pattern of fmt as a catalogue holds it, in the MessageFormat of ICU: “Shipment {0} has left {1}.”
func Pattern(format string) string {
	next := 0
	quoted := strings.NewReplacer("{", "'{'", "}", "'}'").Replace(format)
	return verb.ReplaceAllStringFunc(quoted, func(v string) string {
		if v == "%%" {
			return "%"
		}
		if at := verb.FindStringSubmatch(v)[1]; at != "" {
			n, _ := strconv.Atoi(at)
			next = n - 1
		}
		next++
		if strings.HasSuffix(v, "d") {
			return fmt.Sprintf("{%d, number}", next-1)
		}
		return fmt.Sprintf("{%d}", next-1)
	})
}

// Code names a pattern, as ICU writes it, in catalogues. It is made as Lingui makes it: the first six characters of the base64 of the
// SHA-256 of the pattern and the separator behind which a context would stand.
func Code(icu string) string {
	if code, known := codes.Load(icu); known {
		return code.(string)
	}
	sum := sha256.Sum256([]byte(icu + "\x1f"))
	code := base64.StdEncoding.EncodeToString(sum[:])[:6]
	codes.Store(icu, code)
	return code
}

// codes are those that were made, by pattern.
var codes sync.Map

// Word is what every locale writes in its own way: a day, a time, an amount, a number of things.
type Word struct {
	text  string
	param Param
}

func (w Word) String() string { return w.text }

// List is messages in a row.
func List(ms []Message, between string) Word {
	texts, said := make([]string, len(ms)), make([]Said, len(ms))
	for i, m := range ms {
		texts[i], said[i] = m.String(), m.Said()
	}
	return Word{strings.Join(texts, between), Param{List: said, Between: between}}
}

// Count is a number of things: "1 order", "3 orders".
func Count[N int | int64](n N, noun string) Word {
	m := int64(n)
	text := Number(m).text + " " + noun + "s"
	if m == 1 {
		text = "1 " + noun
	}
	return Word{text, Param{Said: &Said{Code(Plural(noun)), Plural(noun), text, []Param{number(m)}}}}
}

// Plural is the pattern of so many things.
func Plural(noun string) string {
	return fmt.Sprintf("{0, plural, one {# %s} other {# %ss}}", noun, noun)
}

// Number is a number as it is read: 12,345.
func Number(n int64) Word { return Word{grouped(n), number(n)} }

func grouped(n int64) string {
	s := strconv.FormatInt(n, 10)
	for i := len(s) - 3; i > 0 && s[i-1] != '-'; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// Money is an amount as a person reads it: 1,234.50 GBP.
func Money(minor int64, currency string) Word {
	return Word{fmt.Sprintf("%s.%02d %s", grouped(minor/100), minor%100, currency), Param{Minor: &minor, Currency: currency}}
}

// Day is a day as a person says it.
func Day(d days.Day) Word { return Word{d.Time().Format("Mon 2 Jan"), Param{Day: d.String()}} }

// DayOf is the day of an ISO date, as a person says it.
func DayOf(iso string) Word {
	d, err := days.Parse(iso)
	if err != nil {
		return Word{iso, Param{Text: &iso}}
	}
	return Day(d)
}

// Clock is a time as a person at the place tells it: at 15:42, or with the day if it is not today.
func Clock(t time.Time, today days.Day) Message {
	u := t.UTC()
	clock := Word{t.Format("15:04"), Param{At: &u}}
	if days.Of(t) == today {
		return Say("at %s", clock)
	}
	return Say("on %s at %s", Day(days.Of(t)), clock)
}

// Read reads a message as it was kept, or is the sentence that was kept before messages were.
func Read(said, sentence string) Message {
	var m Message
	if said == "" || json.Unmarshal([]byte(said), &m) != nil || m.told.Code == "" {
		return Plain(sentence)
	}
	return m
}
