package api_test

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"journeyman/internal/query"
)

// A list is taken along as it is shown: the rows that were asked for, in their order, with the columns that were chosen.
func TestAListIsTakenAlongAsAFile(t *testing.T) {
	t.Parallel()
	tom, _ := stocked(t)
	const asked = "/api/lists/orders/file?only=channel%3Dweb&sort=number&down=true&columns=number,customer,value,wanted"
	code, text := tom.send("GET", asked, "", "")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if code != 200 || err != nil || len(rows) != 3 {
		t.Fatalf("%d %v: %s", code, err, text)
	}
	if strings.Join(rows[0], "|") != "Order|Customer|Value|Requested" || rows[1][0] != "SO-1004" || rows[2][0] != "SO-1002" {
		t.Errorf("%v", rows)
	}
	first := read[query.OrdersPage](t, tom, "/api/orders?q=SO-1004").Orders[0]
	value := strings.ReplaceAll(rows[1][2], ".", "")
	if value != jsonOf(first.ValueMinor) || rows[1][3] != first.Wanted || rows[1][1] != first.Customer {
		t.Errorf("%v is not %+v", rows[1], first)
	}
	code, book := tom.send("GET", strings.Replace(asked, "/file?", "/file?form=xlsx&", 1), "", "")
	f, err := excelize.OpenReader(bytes.NewReader([]byte(book)))
	if code != 200 || err != nil {
		t.Fatal(code, err)
	}
	if sheet, err := f.GetRows("orders"); err != nil || len(sheet) != 3 || sheet[1][0] != "SO-1004" {
		t.Errorf("%v %v", sheet, err)
	}
	for query, says := range map[string]string{
		"/api/lists/orders/file?columns=colour":   "no column",
		"/api/lists/orders/file?only=value%3Dlow": "not an amount",
		"/api/lists/wishes/file":                  "list",
		"/api/lists/orders/groups?by=number":      "not grouped",
	} {
		if code, body := tom.send("GET", query, "", ""); code != 422 || !strings.Contains(body, says) {
			t.Errorf("%s: %d %s", query, code, body)
		}
	}
}

// Margins and costs are not for the floor: in no file, no list of columns, no filter.
func TestTheFloorTakesNoMarginsAlong(t *testing.T) {
	t.Parallel()
	tom, flo := stocked(t)
	_, mine := tom.send("GET", "/api/lists/orders/file", "", "")
	_, theirs := flo.send("GET", "/api/lists/orders/file", "", "")
	if !strings.Contains(mine, "Margin") || strings.Contains(theirs, "Margin") || !strings.Contains(theirs, "SO-1001") {
		t.Errorf("sales %.200s, the floor %.200s", mine, theirs)
	}
	if code, said := flo.send("GET", "/api/lists/items/file?columns=sku,cost", "", ""); code != 422 {
		t.Errorf("%d %s", code, said)
	}
	if code, said := flo.send("GET", "/api/lists/orders/groups?by=tier&only=margin%3E%3D0", "", ""); code != 422 {
		t.Errorf("%d %s", code, said)
	}
}
