package admin

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
	"journeyman/internal/words"
)

// NewUser is a person to be added.
type NewUser struct {
	Login, Name string
	Role        command.Role
	Password    string // empty: cannot sign in with a password
}

// AddUser adds a person who may sign in.
func (d *Desk) AddUser(ctx context.Context, u NewUser) (a command.Actor, err error) {
	err = d.Store.InTx(ctx, func(tx *store.Tx) error {
		a, err = d.addUser(tx, u)
		return err
	})
	return a, d.explainUser(err)
}

func (d *Desk) addUser(tx *store.Tx, u NewUser) (command.Actor, error) {
	if !slices.Contains(command.Roles, u.Role) {
		return command.Actor{}, command.Invalid("%q is not a role: coordinator, sales, floor or manager.", u.Role)
	}
	if strings.TrimSpace(u.Name) == "" {
		return command.Actor{}, command.Invalid("Give the person a name.")
	}
	rec := store.User{Login: strings.ToLower(u.Login), Name: strings.TrimSpace(u.Name), Role: string(u.Role), Active: true}
	if u.Password != "" {
		if err := goodPassword(u.Password, rec.Login, rec.Name); err != nil {
			return command.Actor{}, err
		}
		var err error
		if rec.PasswordHash, err = d.hashOf(u.Password); err != nil {
			return command.Actor{}, err
		}
	}
	if _, found, err := tx.UserByLogin(rec.Login); err != nil || found {
		return command.Actor{}, cmp.Or(err, command.Conflict("Somebody has the login %s already.", rec.Login))
	}
	err := tx.Create(&rec)
	return actorOf(rec), err
}

func (d *Desk) explainUser(err error) error {
	if postgres.Check(err) == "app_user_login_check" {
		return command.Invalid("A login has 2 to 41 small letters, digits, dots, hyphens or underscores.")
	}
	return err
}

func actorOf(u store.User) command.Actor {
	return command.Actor{ID: u.ID, Name: u.Name, Role: command.Role(u.Role), Login: u.Login}
}

// makeNobody is the hash that is compared with when there is no such login, so that both take the same time.
func (d *Desk) makeNobody() string {
	h, err := d.hashOf("nobody has this password")
	if err != nil {
		panic(err) // only if the system has no random numbers
	}
	return h
}

// mostTries is how often within a quarter of an hour the password of somebody may be tried in vain.
const mostTries = 10

// mayTry notes that a password is tried, and refuses it if it was too often in vain.
func (d *Desk) mayTry(ctx context.Context, login, address string) error {
	may, err := d.Store.TryPassword(ctx, login, address, mostTries)
	if err == nil && !may {
		d.Log.WarnContext(ctx, "password refused: too many failures", "login", login, "address", address)
		err = &command.Refusal{
			Kind:    command.KindTooMany,
			Message: words.Say("Too many tries with the password of this person. Wait a quarter of an hour, or ask a manager for another one."),
		}
	}
	return err
}

// SignIn returns the person of that login if the password is right. Whoever is tried in vain too often cannot sign in for a
// while, whether there is such a login or not.
func (d *Desk) SignIn(ctx context.Context, login, password, address string) (command.Actor, error) {
	login = strings.ToLower(strings.TrimSpace(login))
	if err := d.mayTry(ctx, login, address); err != nil {
		return command.Actor{}, err
	}
	u, found, err := d.Store.Read(ctx).UserByLogin(login)
	if err != nil {
		return command.Actor{}, err
	}
	hash := d.nobody()
	if found && u.Active && u.PasswordHash != "" {
		hash = u.PasswordHash
	}
	right, old := matches(hash, password)
	if !right || !found || !u.Active || u.PasswordHash == "" {
		d.Log.WarnContext(ctx, "sign-in refused", "login", login, "address", address)
		return command.Actor{}, command.Forbidden("That login and password do not belong together. Check both, or ask a manager.")
	}
	if err := d.Store.PasswordWasRight(ctx, login); err != nil {
		return command.Actor{}, err
	}
	if old {
		if hash, err = d.hashOf(password); err == nil {
			err = d.Store.InTx(ctx, func(tx *store.Tx) error { return tx.SetPassword(u.ID, hash) })
		}
		if err != nil {
			return command.Actor{}, err
		}
	}
	d.Log.InfoContext(ctx, "signed in", "login", login, "address", address)
	return actorOf(u), nil
}

// PersonByLogin returns the active person of that login.
func (d *Desk) PersonByLogin(ctx context.Context, login string) (command.Actor, bool, error) {
	u, found, err := d.Store.Read(ctx).UserByLogin(login)
	return actorOf(u), found && u.Active, err
}

// SessionView is where somebody is signed in.
type SessionView struct {
	ID      int64  `json:"id"`
	Began   string `json:"began" format:"date-time"`
	Seen    string `json:"seen" format:"date-time"`
	Address string `json:"address"`
	Agent   string `json:"agent" doc:"What the browser calls itself"`
	This    bool   `json:"this" doc:"It is the one in which this is asked"`
}

// PersonView is somebody who may sign in, or might once.
type PersonView struct {
	Login    string        `json:"login"`
	Name     string        `json:"name"`
	Role     command.Role  `json:"role" enum:"coordinator,sales,floor,manager"`
	Active   bool          `json:"active"`
	Password bool          `json:"password" doc:"They can sign in with a password"`
	You      bool          `json:"you"`
	Sessions []SessionView `json:"sessions"`
}

// People lists those who may sign in, with where they are: all of them for a manager, else whoever asks.
func (d *Desk) People(ctx context.Context, who command.Actor) ([]PersonView, error) {
	r := d.Store.Read(ctx)
	all := who.Role.May(command.VerbPeople)
	of := who.ID
	if all {
		of = 0
	}
	users, err := r.Users()
	if err != nil {
		return nil, err
	}
	sessions, err := r.Sessions(of)
	if err != nil {
		return nil, err
	}
	out := []PersonView{}
	for _, u := range users {
		if u.ID != who.ID && !all || u.Login == carrierLogin {
			continue
		}
		p := PersonView{
			Login: u.Login, Name: u.Name, Role: command.Role(u.Role), Active: u.Active, Password: u.PasswordHash != "",
			You: u.ID == who.ID, Sessions: []SessionView{},
		}
		for _, s := range sessions {
			if s.UserID == u.ID {
				p.Sessions = append(p.Sessions, SessionView{
					s.ID, s.Began.UTC().Format(time.RFC3339),
					s.Seen.UTC().Format(time.RFC3339), s.Address, s.Agent, s.ID == who.Session,
				})
			}
		}
		out = append(out, p)
	}
	return out, nil
}

// PersonAsk is a person as they are to be.
type PersonAsk struct {
	Login    string       `json:"login" minLength:"2" maxLength:"41"`
	Name     string       `json:"name" minLength:"1" maxLength:"100"`
	Role     command.Role `json:"role" enum:"coordinator,sales,floor,manager"`
	Active   bool         `json:"active,omitempty" doc:"Whether they may sign in; of a new person it is so"`
	Password string       `json:"password,omitempty" maxLength:"200" doc:"Of a new person"`
}

// AddPerson adds somebody who may sign in.
//
// It locks nothing. It refuses a login that is taken, or a password that is easily guessed.
func (d *Desk) AddPerson(ctx context.Context, call command.Call, ask PersonAsk) (command.Outcome, error) {
	asked := ask
	asked.Password = "" // what was asked is kept as a hash, from which nobody shall guess it
	out, err := d.Run(ctx, call, command.VerbPeople, asked, func(w *command.UnitOfWork) error {
		a, err := d.addUser(w.Tx, NewUser{Login: ask.Login, Name: ask.Name, Role: ask.Role, Password: ask.Password})
		if err != nil {
			return d.explainUser(err)
		}
		w.Say("%s may sign in as %s.", a.Name, a.Role)
		return w.Tx.ChangePerson(w.ID, a.ID, a.Name, string(a.Role), true)
	})
	return out, d.explainUser(err)
}

// SetPerson changes a person's name or role, or whether they may sign in. Who may not is signed out everywhere, at once.
//
// Changes of people come one after another. It refuses to leave the firm without a manager, and a change that changes nothing.
func (d *Desk) SetPerson(ctx context.Context, call command.Call, ask PersonAsk) (command.Outcome, error) {
	ask.Password = ""
	var ended int64
	out, err := d.Run(ctx, call, command.VerbPeople, ask, func(w *command.UnitOfWork) error {
		if !slices.Contains(command.Roles, ask.Role) || strings.TrimSpace(ask.Name) == "" {
			return command.Invalid("A person has a name, and is coordinator, sales, floor or manager.")
		}
		u, err := lockPerson(w, ask.Login)
		if err != nil {
			return err
		}
		if u.Role == string(command.Manager) && u.Active && (ask.Role != command.Manager || !ask.Active) {
			if n, err := w.Tx.ActiveManagers(); err != nil || n < 2 {
				return cmp.Or(err, command.Conflict("%s is the only manager. Make somebody else a manager first.", u.Name))
			}
		}
		if u.Name == ask.Name && u.Role == string(ask.Role) && u.Active == ask.Active {
			return command.Conflict("Nothing about %s was changed.", u.Name)
		}
		if err := w.Tx.ChangePerson(w.ID, u.ID, strings.TrimSpace(ask.Name), string(ask.Role), ask.Active); err != nil {
			return err
		}
		if ended = 0; !ask.Active {
			ended = u.ID
			w.Say("%s may no longer sign in, and is signed out everywhere.", ask.Name)
			return nil
		}
		w.Say("%s may sign in as %s.", ask.Name, ask.Role)
		return nil
	})
	if err == nil {
		d.Log.InfoContext(ctx, "person changed", "login", ask.Login, "role", ask.Role, "active", ask.Active, "by", call.Actor.Login)
		d.Announce(command.Change{All: true, Touches: command.VerbPeople.Touches(), EndUser: ended})
	}
	return out, err
}

// lockPerson is the person of that login, whom nobody else changes meanwhile.
func lockPerson(w *command.UnitOfWork, login string) (store.User, error) {
	if err := w.Tx.LockPeople(); err != nil {
		return store.User{}, err
	}
	u, found, err := w.Tx.UserByLogin(strings.ToLower(login))
	if err == nil && (!found || u.Login == carrierLogin) {
		err = command.NotFound("Nobody has the login %s.", login)
	}
	return u, err
}

// PasswordAsk is a new password: one's own, or that of somebody else who has lost theirs.
type PasswordAsk struct {
	Login string `json:"login,omitempty" maxLength:"41" doc:"Whose it is, if it is not one's own"`
	Old   string `json:"old,omitempty" maxLength:"200" doc:"One's own as it is"`
	New   string `json:"new" maxLength:"200"`
}

// SetPassword changes one's own password, who knows it as it is, or, for a manager, that of somebody else. All other sessions
// of that person end.
//
// Changes of people come one after another. It refuses a password that is easily guessed, and whoever does not know their own as it
// is.
func (d *Desk) SetPassword(ctx context.Context, call command.Call, ask PasswordAsk) (command.Outcome, error) {
	login := cmp.Or(strings.ToLower(ask.Login), call.Actor.Login)
	own := login == call.Actor.Login
	verb := command.VerbPassword
	if !own {
		verb = command.VerbPeople
	} else if err := d.mayTry(ctx, login, ""); err != nil {
		return command.Outcome{}, err
	}
	var ended int64
	out, err := d.Run(ctx, call, verb, PasswordAsk{Login: login}, func(w *command.UnitOfWork) error {
		u, err := lockPerson(w, login)
		if err != nil {
			return err
		}
		if own && u.PasswordHash != "" {
			if right, _ := matches(u.PasswordHash, ask.Old); !right {
				return command.Invalid("That is not your password as it is.")
			}
		}
		if err := goodPassword(ask.New, u.Login, u.Name); err != nil {
			return err
		}
		hash, err := d.hashOf(ask.New)
		if err != nil {
			return err
		}
		if err := w.Tx.SetPassword(u.ID, hash); err != nil {
			return err
		}
		if err := w.Tx.ForgetTries(login); err != nil {
			return err
		}
		ended = u.ID
		w.Say("The password of %s is changed, and all other sessions have ended.", u.Name)
		return w.Tx.EndSessionsOf(u.ID, call.Actor.Session)
	})
	if err == nil {
		d.Log.InfoContext(ctx, "password changed", "login", login, "by", call.Actor.Login)
		d.Announce(command.Change{All: true, Touches: command.VerbPeople.Touches(), EndUser: ended, But: call.Actor.Session})
	}
	return out, err
}

// SessionAsk names a session.
type SessionAsk struct {
	Login   string `json:"login,omitempty" maxLength:"41" doc:"Whose it is, if it is not one's own"`
	Session int64  `json:"session" minimum:"1"`
}

// EndSession signs somebody out somewhere: oneself, or, for a manager, anybody.
//
// Changes of people come one after another. It refuses a session that has ended.
func (d *Desk) EndSession(ctx context.Context, call command.Call, ask SessionAsk) (command.Outcome, error) {
	login := cmp.Or(strings.ToLower(ask.Login), call.Actor.Login)
	verb := command.VerbPassword
	if login != call.Actor.Login {
		verb = command.VerbPeople
	}
	out, err := d.Run(ctx, call, verb, ask, func(w *command.UnitOfWork) error {
		u, err := lockPerson(w, login)
		if err != nil {
			return err
		}
		if there, err := w.Tx.EndSessionOf(u.ID, ask.Session); err != nil || !there {
			return cmp.Or(err, command.Conflict("That session has ended already."))
		}
		w.Say("%s is signed out there.", u.Name)
		return nil
	})
	if err == nil {
		d.Announce(command.Change{All: true, Touches: command.VerbPeople.Touches(), EndSession: ask.Session})
	}
	return out, err
}

// carrierLogin is in whose name news from the carrier is recorded. Nobody can sign in with it.
const carrierLogin = "carrier"

// CarrierActor is in whose name news from the carrier is recorded, made if it is not there yet.
func (d *Desk) CarrierActor(ctx context.Context) (command.Actor, error) {
	who, found, err := d.PersonByLogin(ctx, carrierLogin)
	if err != nil || found {
		return who, err
	}
	if who, err = d.AddUser(ctx, NewUser{Login: carrierLogin, Name: "Carrier", Role: command.Floor}); err == nil {
		return who, nil
	}
	who, _, again := d.PersonByLogin(ctx, carrierLogin) // another server was quicker
	if who.ID != 0 {
		return who, again
	}
	return who, err
}
