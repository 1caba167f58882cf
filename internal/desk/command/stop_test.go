package command_test

import (
	"context"
	"errors"
	"testing"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/exchange"
)

func TestWhatIsUnderWayCanBeStopped(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.Shortage(t), context.Background()
	v := o.Rehearse(allocation.RunAsk{Scope: desktest.ShortageOrders})
	// A colleague holds the stock, so that the run has to wait.
	colleague, err := o.Store.Pool.Begin(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = colleague.Rollback(ctx) }()
	if _, err := colleague.Exec(ctx, `SELECT 1 FROM stock_cell FOR NO KEY UPDATE`); err != nil {
		t.Fatal(err)
	}
	call := o.By(o.Ana)
	impatient, cutOff := context.WithCancel(ctx)
	ended := make(chan error)
	go func() {
		_, err := o.Allocation.ApplyRun(impatient, call, allocation.ApplyAsk{Plan: v.Plans[0].Key})
		ended <- err
	}()
	dbtest.AwaitLock(t, o.Store)
	cutOff()
	if err := <-ended; !errors.Is(err, context.Canceled) {
		t.Errorf("the run that was cut off ended with %v", err)
	}
	out, err := o.Stop(ctx, call, command.StopAsk{})
	if err != nil || out.Verb != string(command.VerbStop) || out.Undoable || out.Sentence != "Stopped. Nothing was changed." {
		t.Fatalf("%+v, %v", out, err)
	}
	if at := o.Line("SO-6002", 1).At; at.Allocated != 0 {
		t.Errorf("after stopping %d are allocated", at.Allocated)
	}
	if err := colleague.Rollback(ctx); err != nil {
		t.Fatal(err)
	}
	// It cannot come afterwards, such as by a request that was late.
	_, err = o.Allocation.ApplyRun(ctx, call, allocation.ApplyAsk{Plan: v.Plans[0].Key})
	desktest.Refused(t, err, command.KindInvalid, "was used for another one")
	// Stopping twice says the same, and the plan can still be applied.
	if twice, err := o.Stop(ctx, call, command.StopAsk{}); err != nil || twice.Command != out.Command {
		t.Errorf("%+v, %v", twice, err)
	}
	if applied, err := o.Allocation.ApplyRun(ctx, o.By(o.Ana), allocation.ApplyAsk{Plan: v.Plans[0].Key}); err != nil ||
		applied.Units != 20 {
		t.Errorf("%+v, %v", applied, err)
	}
}

func TestStoppingTooLateTellsWhatWasDone(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.Shortage(t), context.Background()
	v := o.Rehearse(allocation.RunAsk{Scope: desktest.ShortageOrders})
	call := o.By(o.Ana)
	applied, err := o.Allocation.ApplyRun(ctx, call, allocation.ApplyAsk{Plan: v.Plans[0].Key})
	if err != nil {
		t.Fatal(err)
	}
	out, err := o.Stop(ctx, call, command.StopAsk{})
	if err != nil || out.Verb != string(command.VerbRun) || out.Command != applied.Command || out.Sentence != applied.Sentence ||
		!out.Undoable {
		t.Errorf("%+v, %v", out, err)
	}
	// Another's command is none of theirs: what they stop under its key is their own, and was never sent.
	if out, err := o.Stop(ctx, command.Call{Key: call.Key, Actor: o.Tom}, command.StopAsk{}); err != nil ||
		out.Verb != string(command.VerbStop) {
		t.Errorf("%+v %v", out, err)
	}
	if again, err := o.Allocation.ApplyRun(ctx, call, allocation.ApplyAsk{Plan: v.Plans[0].Key}); err != nil ||
		again.Command != applied.Command {
		t.Errorf("the command itself: %+v %v", again, err)
	}
}

func TestAnImportCanBeStopped(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	report, err := o.Importing.CheckImport(
		ctx, o.By(o.Ana), []exchange.File{{Name: "items.csv", Data: []byte("sku,name,price,cost\nZC-1,A new thing,2.00,1.00\n")}},
	)
	if err != nil {
		t.Fatal(err)
	}
	call := o.By(o.Ana)
	gone, cutOff := context.WithCancel(ctx)
	cutOff()
	if _, err := o.Importing.ApplyImport(gone, call, report.Key, false); !errors.Is(err, context.Canceled) {
		t.Errorf("an import that was cut off ended with %v", err)
	}
	if out, err := o.Stop(ctx, call, command.StopAsk{}); err != nil || out.Verb != string(command.VerbStop) {
		t.Fatalf("%+v, %v", out, err)
	}
	if _, err := o.Query.Item(ctx, "ZC-1"); err == nil {
		t.Error("the item is there all the same")
	}
	if _, err := o.Importing.ApplyImport(ctx, o.By(o.Ana), report.Key, false); err != nil {
		t.Errorf("applied afterwards: %v", err)
	}
}
