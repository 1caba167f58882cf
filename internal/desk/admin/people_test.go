package admin_test

import (
	"context"
	"strings"
	"sync"
	"testing"

	"golang.org/x/crypto/bcrypt"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
)

func TestPasswordsAreHashedInFullAndOldHashesAreRenewed(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	hash := func() (h string) {
		t.Helper()
		if err := o.Store.Pool.QueryRow(ctx, `SELECT password_hash FROM app_user WHERE login = 'tom'`).Scan(&h); err != nil {
			t.Fatal(err)
		}
		return h
	}
	// Passwords that are the same in their first 72 bytes are not the same.
	long := strings.Repeat("correct horse battery ", 5)
	ok(o.Admin.SetPassword(ctx, o.By(o.Tom), admin.PasswordAsk{Old: "correct horse", New: long + "one"}))
	if _, err := o.Admin.SignIn(ctx, "tom", long+"two", ""); err == nil {
		t.Error("only the first bytes of a password count")
	}
	if _, err := o.Admin.SignIn(ctx, " TOM ", long+"one", ""); err != nil {
		t.Error(err)
	}
	// A hash of before is taken once more, and made again.
	old, err := bcrypt.GenerateFromPassword([]byte("an older horse"), bcrypt.MinCost)
	if err != nil {
		t.Fatal(err)
	}
	o.Owner(`UPDATE app_user SET password_hash = '` + string(old) + `' WHERE login = 'tom'`)
	if _, err := o.Admin.SignIn(ctx, "tom", "an older horse", ""); err != nil || !strings.HasPrefix(hash(), "$argon2id$") {
		t.Errorf("%v, kept as %.12s", err, hash())
	}
	if _, err := o.Admin.SignIn(ctx, "tom", "an older horse", ""); err != nil {
		t.Error(err)
	}
}

func TestPasswordsThatAnybodyTriesFirstAreRefused(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	for _, c := range []struct{ password, why string }{
		{"short", "at least"}, {"password123", "first"}, {strings.Repeat("a", 300), "at most"}, {"tom", "at least"},
	} {
		_, err := o.Admin.SetPassword(ctx, o.By(o.Tom), admin.PasswordAsk{Old: "correct horse", New: c.password})
		if r, no := command.AsRefusal(err); !no || r.Kind != command.KindInvalid {
			t.Errorf("%q is taken: %v", c.password, err)
		} else if !strings.Contains(r.Message.String(), c.why) {
			t.Logf("%q: %s", c.password, r.Message.String())
		}
	}
	_, err := o.Admin.SetPassword(ctx, o.By(o.Tom), admin.PasswordAsk{Old: "not this one", New: "a long new password"})
	desktest.Refused(t, err, command.KindInvalid, "not your password")
	_, err = o.Admin.SetPassword(ctx, o.By(o.Tom), admin.PasswordAsk{Login: "ana", New: "a long new password"})
	desktest.Refused(t, err, command.KindForbidden, "manage people")
	desktest.Done(t)(o.Admin.SetPassword(ctx, o.By(o.Max), admin.PasswordAsk{Login: "ana", New: "a long new password"}))
	if _, err := o.Admin.SignIn(ctx, "ana", "a long new password", ""); err != nil {
		t.Error(err)
	}
}

func TestGuessingEndsAfterAFewTries(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	for _, login := range []string{"tom", "nobody"} { // the same whether there is such a person
		var last error
		for range 10 {
			_, last = o.Admin.SignIn(ctx, login, "wrong", "192.0.2.1")
			desktest.Refused(t, last, command.KindForbidden, "do not belong together")
		}
		_, err := o.Admin.SignIn(ctx, login, "correct horse", "192.0.2.1")
		desktest.Refused(t, err, command.KindTooMany, "Too many tries")
	}
	if _, err := o.Admin.SignIn(ctx, "ana", "correct horse", "192.0.2.1"); err != nil {
		t.Error("somebody else cannot sign in:", err)
	}
	// Forty at once are no more tries than one after another.
	var mu sync.Mutex
	tried := map[command.Kind]int{}
	var all sync.WaitGroup
	for range 40 {
		all.Go(func() {
			_, err := o.Admin.SignIn(ctx, "max", "wrong", "192.0.2.1")
			r, no := command.AsRefusal(err)
			mu.Lock()
			defer mu.Unlock()
			if no {
				tried[r.Kind]++
			}
		})
	}
	all.Wait()
	if tried[command.KindForbidden] != 10 || tried[command.KindTooMany] != 30 {
		t.Errorf("of forty at once: %v", tried)
	}
	// Whoever sits down at somebody else's screen guesses no more often.
	for range 10 {
		_, err := o.Admin.SetPassword(ctx, o.By(o.Ana), admin.PasswordAsk{Old: "wrong", New: "another long one"})
		desktest.Refused(t, err, command.KindInvalid, "not your password")
	}
	_, err := o.Admin.SetPassword(ctx, o.By(o.Ana), admin.PasswordAsk{Old: "correct horse", New: "another long one"})
	desktest.Refused(t, err, command.KindTooMany, "Too many tries")
	// With another password from a manager they are let in at once.
	desktest.Done(t)(o.Admin.SetPassword(ctx, o.By(o.Max), admin.PasswordAsk{Login: "ana", New: "a long new password"}))
	if _, err := o.Admin.SignIn(ctx, "ana", "a long new password", ""); err != nil {
		t.Error(err)
	}
}

func TestTheLastManagerStaysAndRolesAreWrittenDown(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	for _, ask := range []admin.PersonAsk{
		{Login: "max", Name: "Max Orme", Role: command.Sales, Active: true},
		{Login: "max", Name: "Max Orme", Role: command.Manager},
	} {
		_, err := o.Admin.SetPerson(ctx, o.By(o.Max), ask)
		desktest.Refused(t, err, command.KindConflict, "manager")
	}
	ok(o.Admin.SetPerson(ctx, o.By(o.Max), admin.PersonAsk{Login: "tom", Name: "Tom Sale", Role: command.Floor, Active: true}))
	a, err := o.Admin.SignIn(ctx, "tom", "correct horse", "")
	if err != nil || a.Role != command.Floor {
		t.Errorf("%+v %v", a, err)
	}
	var changes int
	if err := o.Store.Pool.QueryRow(ctx, `SELECT count(*) FROM person_change p JOIN app_user u ON u.id = p.user_id
		WHERE u.login = 'tom' AND p.role = 'floor'`).Scan(&changes); err != nil || changes != 1 {
		t.Errorf("%d changes are written down, %v", changes, err)
	}
	// The server's own role on the database may not do it behind its back.
	if _, err := o.Store.Pool.Exec(ctx, `UPDATE app_user SET role = 'manager' WHERE login = 'tom'`); err == nil {
		t.Error("the role of a person is changed without a command")
	}
}
