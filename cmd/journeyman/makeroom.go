package main

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/makeroom"
)

func makeroomCommand() *cobra.Command {
	var x roomFlags
	cmd := &cobra.Command{
		Use:   "makeroom --sku SKU --warehouse CODE --qty N --by DAY BOOK.json",
		Short: "Find the promises to put back, at the least harm, so that a demand fits (docs/book.md)",
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := wants(cmd, x.qty); err != nil {
				return err
			}
			if cmd.Flags().Changed("deadline") && x.deadline <= 0 {
				return refusedBook("--deadline", fmt.Errorf("more than 0 is expected, such as 250ms"))
			}
			b, ask, err := x.ask(args[0], cmd.Flags().Changed("line"))
			if err != nil {
				return err
			}
			var out bytes.Buffer
			if err := makeroom.Find(b, ask).Write(&out, b); err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(out.Bytes())
			return err
		},
	}
	f := cmd.Flags()
	f.StringVar(&x.sku, "sku", "", "the item")
	f.StringVar(&x.warehouse, "warehouse", "", "the warehouse")
	f.Int64Var(&x.qty, "qty", 0, "how many units are wanted")
	f.StringVar(&x.by, "by", "", "the day by which they are wanted")
	f.StringVar(
		&x.harm, "harm", "number",
		"what is made least: number (the weights of the lines put back), days (weight × calendar days) or customers",
	)
	f.StringVar(&x.fixed, "fixed", "", "lines that are not put back, as ORDER/LINE, separated by commas")
	f.StringVar(&x.line, "line", "", "the line whose demand it is, as ORDER/LINE: its own promises are lifted (default: a new one)")
	f.DurationVar(
		&x.deadline, "deadline", 0,
		"after this long, such as 250ms, the best that was found is the answer, with its bound and cut_short (default: never)",
	)
	return computes(cmd, "sku", "warehouse", "qty", "by")
}

// roomFlags is what may be said of the demand for which room is to be made.
type roomFlags struct {
	sku, warehouse, by, harm, fixed, line string
	qty                                   int64
	deadline                              time.Duration
}

// ask reads the book and finds in it what the flags name.
func (x *roomFlags) ask(file string, ofLine bool) (b *book.Book, ask makeroom.Ask, err error) {
	ask = makeroom.Ask{Qty: x.qty, Line: makeroom.NewLine, Harm: makeroom.Harm(x.harm)}
	if ask.By, err = days.Parse(x.by); err != nil {
		return nil, ask, refusedBook("--by", err)
	}
	if !slices.Contains([]makeroom.Harm{makeroom.Number, makeroom.Days, makeroom.Customers}, ask.Harm) {
		return nil, ask, refusedBook("--harm "+x.harm, fmt.Errorf("number, days or customers"))
	}
	if b, err = readBook(file, book.Place{SKU: x.sku, Warehouse: x.warehouse}); err != nil {
		return nil, ask, err
	}
	if ask.Cell, err = placeOf(b, x.sku, x.warehouse); err != nil {
		return nil, ask, err
	}
	if ofLine {
		if ask.Line, err = lineOf(b, x.line); err != nil {
			return nil, ask, refusedBook("--line", err)
		}
		if of := b.Items[b.Cells[b.Lines[ask.Line].Cell].Item].SKU; of != x.sku {
			return nil, ask, refusedBook("--line", fmt.Errorf("%s is a line of item %q, and %q is asked about", x.line, of, x.sku))
		}
	}
	stay := map[int32]bool{}
	for name := range strings.SplitSeq(x.fixed, ",") {
		if name = strings.TrimSpace(name); name == "" {
			continue
		}
		l, err := lineOf(b, name)
		if err != nil {
			return nil, ask, refusedBook("--fixed", err)
		}
		stay[l] = true
	}
	ask.Fixed = func(l int32) bool { return stay[l] }
	if x.deadline > 0 {
		began := time.Now()
		ask.Stop = func() bool { return time.Since(began) > x.deadline }
	}
	return b, ask, nil
}

// lineOf finds a line by ORDER/LINE.
func lineOf(b *book.Book, name string) (int32, error) {
	at := strings.LastIndexByte(name, '/')
	if at >= 0 {
		for l := range b.Lines {
			if b.Orders[b.Lines[l].Order].Number == name[:at] && fmt.Sprint(b.Lines[l].No) == name[at+1:] {
				return int32(l), nil
			}
		}
	}
	return 0, fmt.Errorf("the book has no line %q; lines are written ORDER/LINE, such as S1/1", name)
}
