package main

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"
)

// heard runs the program in this process and returns what it wrote to standard output.
func heard(t *testing.T, args ...string) (string, error) {
	t.Helper()
	cmd := root()
	var out bytes.Buffer
	cmd.SetArgs(args)
	cmd.SetOut(&out)
	cmd.SetErr(&bytes.Buffer{})
	err := cmd.ExecuteContext(context.Background())
	return out.String(), err
}

const workedBook = "../../examples/book-1.json"

// same compares two JSON texts, whatever their spaces.
func same(t *testing.T, got, want string) {
	t.Helper()
	var g, w bytes.Buffer
	if err := json.Compact(&g, []byte(got)); err != nil {
		t.Fatalf("%v: %s", err, got)
	}
	if err := json.Compact(&w, []byte(want)); err != nil {
		t.Fatalf("%v: %s", err, want)
	}
	if g.String() != w.String() {
		t.Errorf("got\n%s\nwant\n%s", g.String(), w.String())
	}
}

func TestTheWorkedAnswersOfATP(t *testing.T) {
	out, err := heard(t, "atp", "--sku", "G1", "--warehouse", "HL", "--qty", "80", "--by", "2027-03-08", workedBook)
	if err != nil {
		t.Fatal(err)
	}
	same(t, out, `{"sku":"G1","warehouse":"HL","days":[
		{"day":"2027-03-01","receipts":0,"commitments":0,"cumulative":76,"atp":26,"discrete":26},
		{"day":"2027-03-03","receipts":0,"commitments":50,"cumulative":26,"atp":26,"discrete":0},
		{"day":"2027-03-08","receipts":60,"commitments":0,"cumulative":86,"atp":86,"discrete":60},
		{"day":"2027-03-17","receipts":80,"commitments":0,"cumulative":166,"atp":166,"discrete":80}],
		"lead_day":"2027-03-30","by":86,"earliest":"2027-03-08"}`)
	type answer struct {
		By       any     `json:"by"`
		Earliest *string `json:"earliest"`
		Lead     *string `json:"lead_day"`
	}
	ask := func(args ...string) (a answer) {
		t.Helper()
		out, err := heard(t, append(append([]string{"atp"}, args...), workedBook)...)
		if err != nil {
			t.Fatal(err)
		}
		if err := json.Unmarshal([]byte(out), &a); err != nil {
			t.Fatal(err)
		}
		return a
	}
	for day, want := range map[string]float64{"2027-03-01": 26, "2027-03-03": 26, "2027-03-08": 86, "2027-03-17": 166, "2027-03-29": 166} {
		if a := ask("--sku", "G1", "--warehouse", "HL", "--by", day); a.By != want {
			t.Errorf("by %s: %v, want %v", day, a.By, want)
		}
	}
	if a := ask("--sku", "G1", "--warehouse", "HL", "--by", "2027-03-30"); a.By != "unlimited" {
		t.Errorf("from the lead day on: %v", a.By)
	}
	for qty, want := range map[string]string{
		"26": "2027-03-01", "27": "2027-03-08", "86": "2027-03-08", "87": "2027-03-17", "166": "2027-03-17", "167": "2027-03-30",
	} {
		if a := ask("--sku", "G1", "--warehouse", "HL", "--qty", qty); a.Earliest == nil || *a.Earliest != want {
			t.Errorf("earliest for %s: %v, want %s", qty, a.Earliest, want)
		}
	}
	if a := ask("--sku", "G1", "--warehouse", "HL", "--qty", "5", "--from", "2027-03-26"); *a.Earliest != "2027-03-29" {
		t.Errorf("from Good Friday on: %s", *a.Earliest)
	}
	out, err = heard(t, "atp", "--sku", "K9", "--warehouse", "HL", "--qty", "3", workedBook)
	if err != nil || !strings.Contains(out, `"lead_day":null,"earliest":null`) {
		t.Errorf("what cannot be bought: %s %v", out, err)
	}
}

func TestTheWorkedPromisesOnTheCommandLine(t *testing.T) {
	out, err := heard(t, "plan", "--mode", "promise", "--keys", "tier,entered", workedBook)
	if err != nil {
		t.Fatal(err)
	}
	same(t, out, `{"format":"journeyman-plan/1","today":"2027-03-01","lines":[
		{"order":"S1","line":1,"allocate":[],"promises":[{"day":"2027-03-17","warehouse":"HL","qty":50}],"short":0,"reasons":[{"code":"covered","qty":50}]},
		{"order":"S2","line":1,"allocate":[],"promises":[{"day":"2027-03-04","warehouse":"HL","qty":76},{"day":"2027-03-08","warehouse":"HL","qty":14}],"short":0,"reasons":[{"code":"covered","qty":90}]},
		{"order":"S3","line":1,"allocate":[],"promises":[{"day":"2027-03-17","warehouse":"HL","qty":85}],"short":0,"reasons":[{"code":"covered","qty":85}]},
		{"order":"S3","line":2,"allocate":[],"promises":[],"short":1,"reasons":[{"code":"rule_line","qty":1}]},
		{"order":"S4","line":1,"allocate":[],"promises":[{"day":"2027-03-08","warehouse":"HL","qty":2}],"short":0,"reasons":[{"code":"covered","qty":2}]},
		{"order":"S4","line":2,"allocate":[],"promises":[{"day":"2027-03-08","warehouse":"HL","qty":10}],"short":0,"reasons":[{"code":"covered","qty":10}]}],
		"totals":{"lines":6,"open":238,"promised":237,"short":1,"late_lines":5,"late_days":39}}`)
	out, err = heard(t, "plan", "--mode", "promise", "--keep", "--keys", "tier,entered", workedBook)
	if err != nil || !strings.Contains(
		out, `"promises":[{"day":"2027-03-04","warehouse":"HL","qty":26},{"day":"2027-03-17","warehouse":"HL","qty":64}]`,
	) {
		t.Errorf("keep: %s %v", out, err)
	}
	// Without the ship rules the whole order takes what there is when it wants it.
	out, err = heard(t, "plan", "--ship-rules", "ignore", "--keys", "tier,entered", workedBook)
	if err != nil || !strings.Contains(
		out, `{"order":"S4","line":1,"allocate":[],"promises":[{"day":"2027-03-05","warehouse":"HL","qty":2}]`,
	) {
		t.Errorf("without ship rules: %s %v", out, err)
	}
	again, _ := heard(t, "plan", "--ship-rules", "ignore", "--keys", "tier,entered", workedBook)
	if again != out {
		t.Error("the same book gave another plan")
	}
}

func TestTheWorkedAllocationsOnTheCommandLine(t *testing.T) {
	out, err := heard(t, "plan", "--mode", "allocate", "--keys", "tier,entered", workedBook)
	if err != nil {
		t.Fatal(err)
	}
	same(t, out, `{"format":"journeyman-plan/1","today":"2027-03-01","lines":[
		{"order":"S1","line":1,"allocate":[{"warehouse":"HL","qty":50}],"promises":[],"short":0,"reasons":[{"code":"covered","qty":50}]},
		{"order":"S2","line":1,"allocate":[{"warehouse":"HL","qty":26}],"promises":[],"short":64,"reasons":[{"code":"covered","qty":26},{"code":"short_stock","qty":14},{"code":"protects_promise","qty":50,"after":["S1/1"],"by":"tier"}]},
		{"order":"S3","line":1,"allocate":[{"warehouse":"HL","qty":60},{"warehouse":"DQ","qty":25}],"promises":[],"short":0,"reasons":[{"code":"covered","qty":85}]},
		{"order":"S3","line":2,"allocate":[{"warehouse":"HL","qty":1}],"promises":[],"short":0,"reasons":[{"code":"covered","qty":1}]},
		{"order":"S4","line":1,"allocate":[],"promises":[],"short":2,"reasons":[{"code":"rule_order","qty":2,"after":["S2/1"],"by":"entered"}]},
		{"order":"S4","line":2,"allocate":[],"promises":[],"short":10,"reasons":[{"code":"rule_order","qty":10,"after":["S2/1"],"by":"entered"}]}],
		"totals":{"lines":6,"open":238,"allocated":162,"complete":2,"promised":0,"short":76,"late_lines":0,"late_days":0}}`)
	for _, c := range []struct {
		name string
		args []string
		has  []string
	}{
		{"unprotected", []string{"--no-protect"}, []string{
			`{"order":"S2","line":1,"allocate":[{"warehouse":"HL","qty":76}]`,
			`{"order":"S1","line":1,"allocate":[],"promises":[{"day":"2027-03-03","warehouse":"HL","qty":50}]`,
			`"broken":[{"order":"S1","line":1,"day":"2027-03-03","warehouse":"HL","qty":50}]`,
		}},
		{"both", []string{"--mode", "both"}, []string{
			`{"order":"S2","line":1,"allocate":[{"warehouse":"HL","qty":26}],"promises":[{"day":"2027-03-17","warehouse":"HL","qty":64}],"short":0`,
		}},
		{"of today alone", []string{"--window", "0"}, []string{`"code":"not_due"`}},
		{
			"without ship rules",
			[]string{"--ship-rules", "ignore"},
			[]string{
				`{"order":"S4","line":1,"allocate":[{"warehouse":"HL","qty":2}]`,
				`"reasons":[{"code":"short_stock","qty":1,"after":["S4/1"],"by":"tier"}]`,
			},
		},
		{"shared", []string{"--share", "fair", "--keys", "tier"}, []string{`"code":"covered"`}},
	} {
		out, err := heard(t, append(append([]string{"plan", "--mode", "allocate", "--keys", "tier,entered"}, c.args...), workedBook)...)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
		}
		for _, want := range c.has {
			if !strings.Contains(out, want) {
				t.Errorf("%s: no %s in %s", c.name, want, out)
			}
		}
	}
}

func TestWhatCannotBeComputedWithIsRefused(t *testing.T) {
	text, err := os.ReadFile(workedBook)
	if err != nil {
		t.Fatal(err)
	}
	bad := filepath.Join(t.TempDir(), "bad.json")
	if err := os.WriteFile(bad, bytes.Replace(text, []byte(`"ordered": 70`), []byte(`"ordered": -70`), 1), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, args := range [][]string{
		{"plan", bad},
		{"plan", "nowhere.json"},
		{"plan", "--mode", "guess", workedBook},
		{"plan", "--mode", "allocate", bad},
		{"plan", "--mode", "allocate", "--share", "loudest", workedBook},
		{"plan", "--mode", "allocate", "--window", "-1", workedBook},
		{"plan", "--keys", "tier,colour", workedBook},
		{"plan", "--keys", "tier,tier", workedBook},
		{"plan", "--ship-rules", "bend", workedBook},
		{"atp", "--sku", "G1", "--warehouse", "HL", bad},
		{"atp", "--sku", "G9", "--warehouse", "HL", workedBook},
		{"atp", "--sku", "G1", "--warehouse", "XX", workedBook},
		{"atp", "--sku", "G1", "--warehouse", "HL", "--by", "soon", workedBook},
		{"atp", "--sku", "G1", "--warehouse", "HL", "--qty", "0", workedBook},
		{"atp", "--sku", "G1", "--warehouse", "HL", "--qty", "1000000001", workedBook},
		{"atp", "--sku", "G1", "--warehouse", "HL", "--qty", "many", workedBook},
		{"atp", "--sku", "G1", "--warehouse", "HL", "--by", "", workedBook},
		{"atp", "--sku", "G1", workedBook},
		{"atp", "--sku", "G1", "--warehouse", "HL"},
		{"atp", "--sku", "G1", "--warehouse", "HL", workedBook, workedBook},
		{"plan", "--colour", "red", workedBook},
		{"plan"},
		{"plan", "--mode", "promise", "--no-protect", workedBook},
		{"plan", "--mode", "promise", "--window", "3", workedBook},
		{"plan", "--mode", "promise", "--share", "fair", workedBook},
		{"plan", "--goal", "orders", workedBook}, // the mode is promise if nothing is said
		{"plan", "--mode", "allocate", "--keep", workedBook},
		{"makeroom", "--sku", "G1", "--warehouse", "HL", "--qty", "9223372036854775807", "--by", "2027-03-08", workedBook},
		{"makeroom", "--sku", "G1", "--warehouse", "XX", "--qty", "5", "--by", "2027-03-08", workedBook},
		{"makeroom", "--sku", "G1", "--warehouse", "HL", "--qty", "5", "--by", "2027-03-08", "--line", "S4/1", workedBook},
		{"makeroom", "--sku", "G1", "--warehouse", "HL", "--qty", "5", "--by", "2027-03-08", "--line", "", workedBook},
		{"makeroom", "--sku", "G1", "--warehouse", "HL", "--by", "2027-03-08", workedBook},
	} {
		if out, err := heard(t, args...); err != exitCode(2) || out != "" {
			t.Errorf("%v: %v, and wrote %q", args, err, out)
		}
	}
}

func TestAGoalIsSaidWithItsBound(t *testing.T) {
	out, err := heard(t, "plan", "--mode", "allocate", "--goal", "orders", "--keys", "tier,entered", workedBook)
	if err != nil {
		t.Fatal(err)
	}
	var plan struct {
		Totals struct {
			Goal           string
			Complete       int
			Reached, Bound map[string]int64
		}
	}
	if err := json.Unmarshal([]byte(out), &plan); err != nil {
		t.Fatal(err)
	}
	// S4 of tier 1 goes whole (two kilns and ten of the glaze), then S1; S3 is left without its kiln.
	x := plan.Totals
	if x.Goal != "orders" || x.Complete != 2 || x.Reached["1"] != 1 || x.Bound["1"] != 1 || x.Reached["2"] != 1 || x.Bound["2"] != 1 ||
		x.Reached["3"] != 0 || x.Bound["3"] != 0 {
		t.Errorf("%+v", x)
	}
	for _, args := range [][]string{
		{"--goal", "profit"},
		{"--mode", "allocate", "--proof"},
		{"--goal", "orders", "--proof"},
		{"--share", "lots"},
		{"--window", "-3"},
		{"--mode", "both", "--keys", "tier,tier"},
		{"--ship-rules", "bend"},
	} {
		out, err := heard(t, append(append([]string{"plan"}, args...), workedBook)...)
		if err == nil || !strings.Contains(err.Error(), "exit 2") || out != "" {
			t.Errorf("%v: %q, %v; want exit 2 and nothing written", args, out, err)
		}
	}
}

func TestAnItemThatAWarehouseDoesNotKeepHasAnEmptyOutlook(t *testing.T) {
	out, err := heard(t, "atp", "--sku", "K9", "--warehouse", "DQ", "--qty", "1", "--by", "1970-01-01", workedBook)
	if err != nil {
		t.Fatal(err)
	}
	same(t, out, `{"sku":"K9","warehouse":"DQ","days":[{"day":"2027-03-01","receipts":0,"commitments":0,"cumulative":0,"atp":0,"discrete":0}],
		"lead_day":null,"by":0,"earliest":null}`)
	if out, err = heard(t, "makeroom", "--sku", "K9", "--warehouse", "DQ", "--qty", "1", "--by", "2027-03-08", workedBook); err != nil {
		t.Fatal(err)
	}
	same(t, out, `{"fits":false,"possible":false}`)
}

// The longest window that a flag can say is all days.
func TestTheLongestWindowServesAllDays(t *testing.T) {
	all, err := heard(t, "plan", "--mode", "allocate", workedBook)
	if err != nil {
		t.Fatal(err)
	}
	for _, window := range []string{"2147483647", "9223372036854775807"} {
		out, err := heard(t, "plan", "--mode", "allocate", "--window", window, workedBook)
		if err != nil {
			t.Fatal(err)
		}
		same(t, out, all)
	}
}

// The program itself is started: a signal ends it even while it reads from somebody who says nothing.
func TestASignalEndsAComputationAtOnce(t *testing.T) {
	program := filepath.Join(t.TempDir(), "journeyman")
	if out, err := exec.Command("go", "build", "-buildvcs=false", "-o", program, ".").CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	for _, sig := range []syscall.Signal{syscall.SIGINT, syscall.SIGTERM} {
		cmd := exec.Command(program, "plan", "-")
		in, err := cmd.StdinPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		if _, err := in.Write(make([]byte, 1<<20)); err == nil { // it reads: the pipe holds less
			_ = cmd.Process.Signal(sig)
		}
		ended := make(chan error, 1)
		go func() { ended <- cmd.Wait() }()
		select {
		case <-ended:
		case <-time.After(20 * time.Second):
			_ = cmd.Process.Kill()
			t.Errorf("%s does not end it", sig)
		}
		_ = in.Close()
	}
}
