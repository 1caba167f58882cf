package api_test

import (
	"encoding/csv"
	"strings"
	"testing"

	"journeyman/internal/desk/sales"
)

func TestTheFloorSeesNoCostsAndMargins(t *testing.T) {
	t.Parallel()
	tom, flo := stocked(t)
	for _, path := range []string{
		"/api/items", "/api/items/GL-2040-1", "/api/orders", "/api/orders/SO-1001", "/api/open",
		"/api/release", "/api/quotes", "/api/buy-requests",
	} {
		for who, p := range map[string]*person{"sales": tom, "floor": flo} {
			code, body := p.send("GET", path, "", "")
			if code != 200 {
				t.Fatalf("%s: %d %s", path, code, body)
			}
			tells := strings.Contains(body, `"cost_minor"`) || strings.Contains(body, `"margin_bp"`)
			if who == "floor" && tells {
				t.Errorf("the floor reads at %s what things cost: %s", path, body)
			}
			if who == "sales" && !tells && (path == "/api/items/GL-2040-1" || path == "/api/orders") {
				t.Errorf("%s tells sales no costs: %s", path, body)
			}
		}
	}
	ask := sales.Draft{Customer: "SPC", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 1}}}
	if v := asks[sales.DraftView](t, flo, "/api/draft", ask); v.MarginBP != nil {
		t.Errorf("a draft tells the floor its margin of %d", *v.MarginBP)
	}
	if v := asks[sales.DraftView](t, tom, "/api/draft", ask); v.MarginBP == nil {
		t.Error("a draft tells sales no margin")
	}
}

func TestATableForPeopleHoldsNoFormulas(t *testing.T) {
	t.Parallel()
	tom, _ := stocked(t)
	for _, note := range []string{`=HYPERLINK("http://attack.example")`, "+1+1", "-1+1", "@SUM(1)", "\tx", "plain"} {
		does(t, tom, "/api/request-buy", map[string]any{
			"sku": "GL-2040-1", "warehouse": "HL", "qty": 1,
			"wanted": "2027-06-01", "note": note,
		}, "")
	}
	code, body := tom.send("GET", "/api/buy-requests.csv", "", "")
	rows, err := csv.NewReader(strings.NewReader(body)).ReadAll()
	if code != 200 || err != nil || len(rows) != 7 {
		t.Fatal(code, err, body)
	}
	for _, row := range rows[1:] {
		if row[4] != "1" {
			t.Errorf("a number is no number: %q", row[4])
		}
		for _, cell := range row {
			if cell != "" && strings.ContainsAny(cell[:1], "=+-@\t\r") {
				t.Errorf("a spreadsheet works %q out", cell)
			}
		}
	}
}
