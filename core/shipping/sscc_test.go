package shipping

import (
	"errors"
	"fmt"
	"strings"
	"testing"
)

func TestCheckDigitsAsPublished(t *testing.T) {
	// GS1 General Specifications, 7.9: the two worked examples. The others are from memory: GTINs of goods that can be bought.
	for digits, want := range map[string]byte{
		"37610425002123456": '9', "629104150021": '3', "400638133393": '1', "501234567890": '0', "0": '0', "": '0',
	} {
		if got, err := CheckDigit(digits); err != nil || got != want {
			t.Errorf("%s: %c, want %c, %v", digits, got, want, err)
		}
	}
	for _, wrong := range []string{"12a4", " 1", "−1"} {
		if _, err := CheckDigit(wrong); !errors.Is(err, ErrCode) {
			t.Errorf("%q: %v", wrong, err)
		}
	}
}

func TestSSCCs(t *testing.T) {
	for _, c := range []struct {
		prefix string
		serial int64
		want   string
	}{
		{"7610425", 2123456, "076104250021234568"},
		{"9521234", 1, "095212340000000013"},
		{"9521234", 1_000_000_001, "095212340000000013"}, // the numbers begin again
		{"952123456789", 1, ""},
	} {
		got, err := SSCC(c.prefix, c.serial)
		if err != nil || len(got) != SSCCLength || c.want != "" && got != c.want {
			t.Errorf("%s %d: %s, want %s, %v", c.prefix, c.serial, got, c.want, err)
		}
		if read, ok := ReadSSCC(got); !ok || read != got {
			t.Errorf("%s does not read back: %s", got, read)
		}
	}
	for _, prefix := range []string{"", "123", "1234567890123", "12x4567"} {
		if got, err := SSCC(prefix, 1); !errors.Is(err, ErrCode) {
			t.Errorf("%q: %s, %v", prefix, got, err)
		}
	}
}

func TestAnSSCCIsReadHoweverItIsWritten(t *testing.T) {
	const code = "376104250021234569" // the example of the specifications with its check digit
	for _, read := range []string{code, "00" + code, "]C100" + code, "\x1d00" + code, "(00) 3 7610425 002123456 9"} {
		if got, ok := ReadSSCC(read); !ok || got != code {
			t.Errorf("%q: %s %v", read, got, ok)
		}
	}
	for _, read := range []string{"", "PK-70392", code[:17], code + "1", "01" + code, strings.Repeat("0", 21)} {
		if got, ok := ReadSSCC(read); ok {
			t.Errorf("%q reads as %s", read, got)
		}
	}
	// A digit that is misread is noticed, whichever it is.
	for i := range len(code) {
		for d := byte('0'); d <= '9'; d++ {
			misread := code[:i] + string(d) + code[i+1:]
			if _, ok := ReadSSCC(misread); ok != (misread == code) {
				t.Errorf("%s: %v", misread, ok)
			}
		}
	}
}

func ExampleSSCC() {
	fmt.Println(SSCC("7610425", 2123456))
	// Output: 076104250021234568 <nil>
}
