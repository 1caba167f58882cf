package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/signal"
	"slices"
	"strings"
	"syscall"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/plan"
	"journeyman/core/policy"
)

// refusedBook ends the program: what was given cannot be computed with. Nothing has
// been written to standard output.
func refusedBook(what string, err error) error {
	fmt.Fprintf(os.Stderr, "journeyman: %s: %v\n", what, err)
	return exitCode(2)
}

// computes makes a command one that computes from a book file and nothing else: a signal ends it at once, and whatever is
// wrong with its flags and arguments ends it with 2.
func computes(cmd *cobra.Command, required ...string) *cobra.Command {
	for _, name := range required {
		_ = cmd.MarkFlagRequired(name)
	}
	cmd.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return refusedBook("flags", err) })
	cmd.Args = func(cmd *cobra.Command, args []string) error {
		if err := cobra.ExactArgs(1)(cmd, args); err != nil {
			return refusedBook(
				"arguments", fmt.Errorf("one book file is expected, or - for standard input; there are %d arguments", len(args)),
			)
		}
		if err := cmd.ValidateRequiredFlags(); err != nil {
			return refusedBook("flags", err)
		}
		signal.Reset(os.Interrupt, syscall.SIGTERM)
		return nil
	}
	return cmd
}

// wants reads the quantity of a flag.
func wants(cmd *cobra.Command, qty int64) error {
	if cmd.Flags().Changed("qty") && (qty < 1 || qty > book.MostUnits) {
		return refusedBook("--qty", fmt.Errorf("a quantity between 1 and %d is expected, not %d", int64(book.MostUnits), qty))
	}
	return nil
}

// placeOf finds the cell that the flags name.
func placeOf(b *book.Book, sku, warehouse string) (int32, error) {
	cell, ok := b.CellOf(sku, warehouse)
	switch {
	case ok:
		return cell, nil
	case !slices.ContainsFunc(b.Items, func(it book.Item) bool { return it.SKU == sku }):
		return 0, refusedBook("--sku", fmt.Errorf("the book has no item %q", sku))
	}
	return 0, refusedBook("--warehouse", fmt.Errorf("the book has no warehouse %q; it has %s", warehouse, strings.Join(b.Warehouses, ", ")))
}

// readBook reads the book of that path, or standard input for "-".
func readBook(path string, asked ...book.Place) (*book.Book, error) {
	from := io.Reader(os.Stdin)
	if path != "-" {
		f, err := os.Open(path)
		if err != nil {
			return nil, refusedBook("the book cannot be read", err)
		}
		defer func() { _ = f.Close() }()
		from = f
	}
	b, err := book.Read(from, asked...)
	if err != nil {
		return nil, refusedBook(path, err)
	}
	return b, nil
}

func planCommand() *cobra.Command {
	var x planFlags
	cmd := &cobra.Command{
		Use:   "plan BOOK.json",
		Short: "Compute a plan from a book file, with no server and no database (docs/book.md)",
		RunE: func(cmd *cobra.Command, args []string) error {
			how, run, err := x.options(cmd.Flags().Changed)
			if err != nil {
				return err
			}
			b, err := readBook(args[0])
			if err != nil {
				return err
			}
			var out bytes.Buffer
			if x.mode == "promise" {
				err = plan.Promise(b, how).Write(&out, b)
			} else {
				a := plan.Allocate(b, run)
				var promises *plan.Plan
				if x.mode == "both" {
					promises = plan.Promise(b.WithTaken(a.Taken), how)
				}
				err = a.Write(&out, b, promises)
			}
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(out.Bytes())
			return err
		},
	}
	x.declare(cmd.Flags())
	return computes(cmd)
}

// planFlags is what may be said of a plan.
type planFlags struct {
	mode, keys, rules, share, goal string
	keep, unprotected, proof       bool
	window                         int
}

func (x *planFlags) declare(f *pflag.FlagSet) {
	f.StringVar(&x.mode, "mode", "promise", "what to compute: allocate, promise, or both: what is left is promised")
	f.BoolVar(&x.unprotected, "no-protect", false, "take what is promised to others, too; the plan lists the promises that are broken")
	f.StringVar(
		&x.share, "share", "in-turn",
		"how lines that are equal in all keys are served: in-turn, fair (by share of what they want) or equal (by units)",
	)
	f.StringVar(
		&x.goal, "goal", "keys", "keys: lines are served in turn; orders: tier by tier the most orders complete; value: the most value",
	)
	f.BoolVar(&x.proof, "proof", false, "print what a goal's bounds add up from, too (docs/book.md)")
	f.IntVar(&x.window, "window", 0, "serve only lines to be shipped within so many days (default all)")
	f.StringVar(
		&x.keys, "keys", "",
		"in which order lines are served: any of tier, urgency, ship_by, entered, value, order, separated by commas (default "+
			"tier,ship_by,entered)",
	)
	f.BoolVar(&x.keep, "keep", false, "keep the promises that were given: none is made worse")
	f.StringVar(&x.rules, "ship-rules", "respect", "respect or ignore the orders' ship rules")
}

// options are the flags as the core knows them. It refuses what makes no sense, and what was said about a mode that was not asked for.
func (x *planFlags) options(said func(flag string) bool) (how plan.PromiseOptions, run plan.AllocateOptions, err error) {
	if x.mode != "promise" && x.mode != "allocate" && x.mode != "both" {
		return how, run, refusedBook("--mode "+x.mode, fmt.Errorf("there are the modes allocate, promise and both"))
	}
	for _, other := range []struct{ mode, of, flags string }{
		{"promise", "allocating", "no-protect share goal proof window"}, {"allocate", "promising", "keep"},
	} {
		for name := range strings.FieldsSeq(other.flags) {
			if x.mode == other.mode && said(name) {
				return how, run, refusedBook("--"+name, fmt.Errorf("it is about %s, which --mode %s does not do", other.of, x.mode))
			}
		}
	}
	how.Keep = x.keep
	run = plan.AllocateOptions{
		Unprotected: x.unprotected, Prove: x.proof, Share: plan.Sharing(x.share), Goal: plan.Goal(x.goal), Window: plan.NoWindow,
	}
	switch {
	case !slices.Contains([]plan.Sharing{plan.InTurn, plan.Fair, plan.Equal}, run.Share):
		return how, run, refusedBook("--share "+x.share, fmt.Errorf("in-turn, fair or equal"))
	case !slices.Contains([]plan.Goal{plan.InOrder, plan.MostOrders, plan.MostValue}, run.Goal):
		return how, run, refusedBook("--goal "+x.goal, fmt.Errorf("keys, orders or value"))
	case x.proof && run.Goal == plan.InOrder:
		return how, run, refusedBook("--proof", fmt.Errorf("it proves the bounds of a goal: allocate with --goal orders or value"))
	case said("window") && x.window < 0:
		return how, run, refusedBook("--window", fmt.Errorf("at least 0 days are expected, not %d", x.window))
	case x.rules != "respect" && x.rules != "ignore":
		return how, run, refusedBook("--ship-rules "+x.rules, fmt.Errorf("respect or ignore"))
	}
	if said("window") {
		run.Window = x.window
	}
	how.IgnoreRules, run.IgnoreRules = x.rules == "ignore", x.rules == "ignore"
	if x.keys != "" {
		keys, err := policy.Parse(x.keys)
		if err != nil {
			return how, run, refusedBook("--keys", err)
		}
		how.Keys, run.Keys = keys, keys
	}
	return how, run, nil
}

func atpCommand() *cobra.Command {
	var sku, warehouse, from, by string
	var qty int64
	cmd := &cobra.Command{
		Use:   "atp --sku SKU --warehouse CODE BOOK.json",
		Short: "Say what can be promised of an item at a warehouse, day by day, from a book file",
		RunE: func(cmd *cobra.Command, args []string) error {
			ask := plan.Ask{Qty: qty}
			if err := wants(cmd, qty); err != nil {
				return err
			}
			for _, x := range []struct {
				flag, text string
				to         func(days.Day)
			}{
				{"from", from, func(d days.Day) { ask.From = d }},
				{"by", by, func(d days.Day) { ask.By = &d }},
			} {
				if !cmd.Flags().Changed(x.flag) {
					continue
				}
				d, err := days.Parse(x.text)
				if err != nil {
					return refusedBook("--"+x.flag, err)
				}
				x.to(d)
			}
			b, err := readBook(args[0], book.Place{SKU: sku, Warehouse: warehouse})
			if err != nil {
				return err
			}
			cell, err := placeOf(b, sku, warehouse)
			if err != nil {
				return err
			}
			text, err := json.Marshal(plan.Answer(b, cell, ask))
			if err != nil {
				return err
			}
			_, err = fmt.Fprintln(cmd.OutOrStdout(), string(text))
			return err
		},
	}
	f := cmd.Flags()
	f.StringVar(&sku, "sku", "", "the item")
	f.StringVar(&warehouse, "warehouse", "", "the warehouse")
	f.Int64Var(&qty, "qty", 0, "answer the earliest day for so many")
	f.StringVar(&from, "from", "", "the earliest day is looked for from here on (default today)")
	f.StringVar(&by, "by", "", "answer how many can be promised for this day")
	return computes(cmd, "sku", "warehouse")
}
