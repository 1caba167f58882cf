package makeroom

import (
	"encoding/json"
	"io"

	"journeyman/core/book"
)

type jsonAnswer struct {
	Fits     bool        `json:"fits"`
	Possible bool        `json:"possible"`
	PutBack  *[]jsonMove `json:"put_back,omitempty"`
	Harm     *int64      `json:"harm,omitempty"`
	Proved   *bool       `json:"proved,omitempty"`
	Bound    *int64      `json:"bound,omitempty"`
	Cut      bool        `json:"cut_short,omitempty"` // by the deadline
}

type jsonMove struct {
	Order string `json:"order"`
	Line  int32  `json:"line"`
	Qty   int64  `json:"qty"`
	From  string `json:"from"`
	To    string `json:"to"`
}

// Write writes the answer in its JSON form; of one that is impossible nothing but that.
func (a Answer) Write(w io.Writer, b *book.Book) error {
	out := jsonAnswer{Fits: a.Fits, Possible: a.Possible, Cut: a.Cut}
	if a.Possible {
		moves := []jsonMove{}
		for _, m := range a.PutBack {
			l := &b.Lines[m.Line]
			moves = append(moves, jsonMove{b.Orders[l.Order].Number, l.No, m.Qty, m.From.String(), m.To.String()})
		}
		out.PutBack, out.Harm, out.Proved, out.Bound = &moves, &a.Harm, &a.Proved, &a.Bound
	}
	return json.NewEncoder(w).Encode(out)
}
