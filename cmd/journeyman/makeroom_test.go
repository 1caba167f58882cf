package main

import (
	"strings"
	"testing"
)

func TestMakingRoomInTheWorkedBook(t *testing.T) {
	ask := func(args ...string) string {
		t.Helper()
		out, err := heard(t, append(append([]string{"makeroom", "--sku", "G1", "--warehouse", "HL"}, args...), workedBook)...)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	same(t, ask("--qty", "26", "--by", "2027-03-03"), `{"fits":true,"possible":true,"put_back":[],"harm":0,"proved":true,"bound":0}`)
	// 50 of S1 are promised for the 3rd; from the 8th on there are 60 more.
	same(t, ask("--qty", "27", "--by", "2027-03-03"),
		`{"fits":false,"possible":true,"put_back":[{"order":"S1","line":1,"qty":50,"from":"2027-03-03","to":"2027-03-08"}],"harm":4,"proved":true,"bound":4}`)
	same(t, ask("--qty", "27", "--by", "2027-03-03", "--harm", "days"),
		`{"fits":false,"possible":true,"put_back":[{"order":"S1","line":1,"qty":50,"from":"2027-03-03","to":"2027-03-08"}],"harm":20,"proved":true,"bound":20}`)
	same(t, ask("--qty", "77", "--by", "2027-03-01"), `{"fits":false,"possible":false}`)
	same(t, ask("--qty", "76", "--by", "2027-03-03", "--harm", "customers"),
		`{"fits":false,"possible":true,"put_back":[{"order":"S1","line":1,"qty":50,"from":"2027-03-03","to":"2027-03-08"}],"harm":1,"proved":true,"bound":1}`)
	same(t, ask("--qty", "87", "--by", "2027-03-08"), // only the 17th, or the lead day, helps
		`{"fits":false,"possible":true,"put_back":[{"order":"S1","line":1,"qty":50,"from":"2027-03-03","to":"2027-03-17"}],"harm":4,"proved":true,"bound":4}`)
	same(t, ask("--qty", "27", "--by", "2027-03-03", "--fixed", "S1/1"), `{"fits":false,"possible":false}`)
	same(
		t, ask("--qty", "76", "--by", "2027-03-03", "--line", "S1/1"),
		`{"fits":true,"possible":true,"put_back":[],"harm":0,"proved":true,"bound":0}`,
	)
}

func TestMakingRoomRefusesWhatItDoesNotKnow(t *testing.T) {
	whole := []string{"makeroom", "--sku", "G1", "--warehouse", "HL", "--qty", "5", "--by", "2027-03-03"}
	for name, args := range map[string][]string{
		"an unknown item":      {"makeroom", "--sku", "G9", "--warehouse", "HL", "--qty", "5", "--by", "2027-03-03"},
		"a day that is none":   {"makeroom", "--sku", "G1", "--warehouse", "HL", "--qty", "5", "--by", "2027-02-30"},
		"nothing wanted":       {"makeroom", "--sku", "G1", "--warehouse", "HL", "--qty", "0", "--by", "2027-03-03"},
		"an unknown harm":      append(append([]string{}, whole...), "--harm", "much"),
		"an unknown line":      append(append([]string{}, whole...), "--fixed", "S1/9"),
		"a line without order": append(append([]string{}, whole...), "--line", "7"),
		"no time":              append(append([]string{}, whole...), "--deadline", "0s"),
	} {
		out, err := heard(t, append(args, workedBook)...)
		if err == nil || !strings.Contains(err.Error(), "exit 2") || out != "" {
			t.Errorf("%s: got %q, %v; want exit 2 and nothing written", name, out, err)
		}
	}
}
