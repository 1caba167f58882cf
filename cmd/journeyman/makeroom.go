package main

import (
	"bytes"
	"fmt"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/makeroom"
)

func makeroomCommand() *cobra.Command {
	var sku, warehouse, by, harm, fixed, line string
	var qty int64
	var deadline time.Duration
	cmd := &cobra.Command{
		Use:   "makeroom --sku SKU --warehouse CODE --qty N --by DAY BOOK.json",
		Short: "Find the promises to put back, at the least harm, so that a demand fits (docs/book.md)",
		RunE: func(cmd *cobra.Command, args []string) error {
			ask := makeroom.Ask{Qty: qty, Line: makeroom.NewLine, Harm: makeroom.Harm(harm)}
			if err := wants(cmd, qty); err != nil {
				return err
			}
			d, err := days.Parse(by)
			if err != nil {
				return refusedBook("--by", err)
			}
			ask.By = d
			switch ask.Harm {
			case makeroom.Number, makeroom.Days, makeroom.Customers:
			default:
				return refusedBook("--harm "+harm, fmt.Errorf("number, days or customers"))
			}
			if cmd.Flags().Changed("deadline") && deadline <= 0 {
				return refusedBook("--deadline", fmt.Errorf("more than 0 is expected, such as 250ms"))
			}
			b, err := readBook(args[0], book.Place{SKU: sku, Warehouse: warehouse})
			if err != nil {
				return err
			}
			if ask.Cell, err = placeOf(b, sku, warehouse); err != nil {
				return err
			}
			if cmd.Flags().Changed("line") {
				if ask.Line, err = lineOf(b, line); err != nil {
					return refusedBook("--line", err)
				}
				if of := b.Items[b.Cells[b.Lines[ask.Line].Cell].Item].SKU; of != sku {
					return refusedBook("--line", fmt.Errorf("%s is a line of item %q, and %q is asked about", line, of, sku))
				}
			}
			stay := map[int32]bool{}
			for name := range strings.SplitSeq(fixed, ",") {
				if name = strings.TrimSpace(name); name == "" {
					continue
				}
				l, err := lineOf(b, name)
				if err != nil {
					return refusedBook("--fixed", err)
				}
				stay[l] = true
			}
			ask.Fixed = func(l int32) bool { return stay[l] }
			began := time.Now()
			if deadline > 0 {
				ask.Stop = func() bool { return time.Since(began) > deadline }
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
	f.StringVar(&sku, "sku", "", "the item")
	f.StringVar(&warehouse, "warehouse", "", "the warehouse")
	f.Int64Var(&qty, "qty", 0, "how many units are wanted")
	f.StringVar(&by, "by", "", "the day by which they are wanted")
	f.StringVar(
		&harm, "harm", "number",
		"what is made least: number (the weights of the lines put back), days (weight × calendar days) or customers",
	)
	f.StringVar(&fixed, "fixed", "", "lines that are not put back, as ORDER/LINE, separated by commas")
	f.StringVar(&line, "line", "", "the line whose demand it is, as ORDER/LINE: its own promises are lifted (default: a new one)")
	f.DurationVar(
		&deadline, "deadline", 0,
		"after this long, such as 250ms, the best that was found is the answer, with its bound and cut_short (default: never)",
	)
	return computes(cmd, "sku", "warehouse", "qty", "by")
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
