package shipping

import (
	"errors"
	"fmt"
	"strings"
)

// ErrCode is wrapped by the error of what is no code of GS1's.
var ErrCode = errors.New("no such code")

// CheckDigit returns the digit that GS1's codes end with, of the digits before it: from the right, these count three times and once by
// turns, and with the check digit they come to a multiple of ten (GS1 General Specifications, 7.9). It fails on what is not all digits.
func CheckDigit(digits string) (byte, error) {
	sum := 0
	for i := range len(digits) {
		d := digits[len(digits)-1-i]
		if d < '0' || d > '9' {
			return 0, fmt.Errorf("%q is not all digits: %w", digits, ErrCode)
		}
		weight := 3
		if i%2 == 1 {
			weight = 1
		}
		sum += int(d-'0') * weight
	}
	return '0' + byte((10-sum%10)%10), nil
}

// SSCCLength is how many digits a serial shipping container code has.
const SSCCLength = 18

// SSCC returns the serial shipping container code of a carton or pallet: an extension digit, which is 0 here, the firm's GS1 company
// prefix of 4 to 12 digits, a serial number that fills up to 17 digits, and the check digit (GS1 General Specifications, application
// identifier 00). Serial numbers begin again when they do not fit any more, as GS1 allows a year after a code was last used.
func SSCC(prefix string, serial int64) (string, error) {
	if len(prefix) < 4 || len(prefix) > 12 || serial < 0 {
		return "", fmt.Errorf("a company prefix has 4 to 12 digits, not %q: %w", prefix, ErrCode)
	}
	room := SSCCLength - 2 - len(prefix)
	most := int64(1)
	for range room {
		most *= 10
	}
	body := "0" + prefix + fmt.Sprintf("%0*d", room, serial%most)
	digit, err := CheckDigit(body)
	return body + string(digit), err
}

// ReadSSCC returns the serial shipping container code in what a scanner read, or somebody typed: with or without the symbology identifier
// ]C1, a function character, the application identifier 00, brackets and spaces. ok is false if there is none, or its check digit is wrong.
func ReadSSCC(read string) (code string, ok bool) {
	read = strings.TrimPrefix(read, "]C1")
	read = strings.Map(func(r rune) rune {
		if r == ' ' || r == '(' || r == ')' || r == '\x1d' {
			return -1
		}
		return r
	}, read)
	if len(read) == SSCCLength+2 {
		read = strings.TrimPrefix(read, "00")
	}
	if len(read) != SSCCLength {
		return "", false
	}
	digit, err := CheckDigit(read[:SSCCLength-1])
	return read, err == nil && digit == read[SSCCLength-1]
}
