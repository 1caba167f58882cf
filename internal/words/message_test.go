package words

import (
	"encoding/json"
	"testing"
	"time"

	"journeyman/core/days"
)

// The codes are those of Lingui: these were made by its generateMessageId, version 5.9.
func TestCodesAreThoseOfTheCatalogue(t *testing.T) {
	t.Parallel()
	for pattern, want := range map[string]string{
		"released":                     "+gLagq",
		"%s line %d (tier %d) has %d.": "+2bydP",
		"a workbook of at most %d MB: save it as CSV": "+h6IX+",
	} {
		if got := Say(pattern).Said().Code; got != want {
			t.Errorf("%q has the code %s, want %s", pattern, got, want)
		}
	}
}

func TestPatternsAreWrittenAsCataloguesHoldThem(t *testing.T) {
	t.Parallel()
	for pattern, want := range map[string]string{
		"Released %s of %s.":      "Released {0} of {1}.",
		"keeps %d %% of %s":       "keeps {0, number} % of {1}",
		"%[2]s before %[1]d, {x}": "{1} before {0, number}, '{'x'}'",
		"Nothing.":                "Nothing.",
	} {
		if got := Pattern(pattern); got != want {
			t.Errorf("%q is %q, want %q", pattern, got, want)
		}
	}
}

func TestAMessageTravelsWithWhatStandsInIt(t *testing.T) {
	t.Parallel()
	day := days.Date(2027, 3, 2)
	m := Say("Promised %s on %s: %s, %s, %s.", Count(3, "unit"), "SO-1", List([]Message{Say("%d for %s", 3, Day(day))}, ", "),
		Money(123450, "GBP"), Clock(time.Date(2027, 3, 1, 15, 42, 0, 0, time.UTC), day)).And(Message{}).And(Say("The rest stays."))
	const english = "Promised 3 units on SO-1: 3 for Tue 2 Mar, 1,234.50 GBP, on Mon 1 Mar at 15:42. The rest stays."
	if m.String() != english {
		t.Errorf("%s", m)
	}
	text, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	var back Message
	if err := json.Unmarshal(text, &back); err != nil || back.String() != english || back.IsZero() {
		t.Errorf("%s came back as %q (%v)", text, back, err)
	}
	said := back.Said()
	if len(said.Params) != 2 || said.Params[0].Said == nil || len(said.Params[0].Said.Params) != 5 {
		t.Fatalf("%+v", said)
	}
	p := said.Params[0].Said.Params
	if *p[0].Said.Params[0].Number != 3 || *p[1].Text != "SO-1" || p[2].List[0].Params[1].Day != "2027-03-02" ||
		*p[3].Minor != 123450 || p[3].Currency != "GBP" || p[4].Said.Params[0].Day != "2027-03-01" || p[4].Said.Params[1].At == nil {
		t.Errorf("%s", text)
	}
	again, err := json.Marshal(back)
	if err != nil || string(again) != string(text) {
		t.Errorf("%s, then %s (%v)", text, again, err)
	}
}

// What was kept before there were messages is said as it was.
func TestASentenceThatWasKeptIsRead(t *testing.T) {
	t.Parallel()
	if got := Read("", "Released 3 units."); got.String() != "Released 3 units." {
		t.Error(got)
	}
	text, _ := json.Marshal(Say("Released %s.", Count(3, "unit")))
	if got := Read(string(text), "other"); got.String() != "Released 3 units." || got.Said().Code != Code("Released {0}.") {
		t.Error(got)
	}
}
