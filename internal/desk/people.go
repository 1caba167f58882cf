package desk

import (
	"context"
	"slices"
	"strings"

	"golang.org/x/crypto/bcrypt"

	"journeyman/internal/store"
)

// NewUser is a person to be added.
type NewUser struct {
	Login, Name string
	Role        Role
	Password    string // empty: cannot sign in with a password
}

// AddUser adds a person who may sign in.
func (d *Desk) AddUser(ctx context.Context, u NewUser) (Actor, error) {
	if !slices.Contains(Roles, u.Role) {
		return Actor{}, Invalid("%q is not a role: coordinator, sales, floor or manager.", u.Role)
	}
	if strings.TrimSpace(u.Name) == "" {
		return Actor{}, Invalid("Give the person a name.")
	}
	hash := ""
	if u.Password != "" {
		if len(u.Password) < 8 || len(u.Password) > 72 {
			return Actor{}, Invalid("The password must have 8 to 72 characters.")
		}
		h, err := bcrypt.GenerateFromPassword([]byte(u.Password), d.hashCost)
		if err != nil {
			return Actor{}, err
		}
		hash = string(h)
	}
	rec := store.User{Login: strings.ToLower(u.Login), Name: u.Name, Role: string(u.Role), PasswordHash: hash, Active: true}
	err := d.store.InTx(ctx, func(tx *store.Tx) error {
		if _, found, err := tx.UserByLogin(rec.Login); err != nil {
			return err
		} else if found {
			return Conflict("Somebody has the login %s already.", rec.Login)
		}
		return tx.Create(&rec)
	})
	if store.Check(err) == "app_user_login_check" {
		return Actor{}, Invalid("A login has 2 to 41 small letters, digits, dots, hyphens or underscores.")
	}
	return Actor{ID: rec.ID, Name: rec.Name, Role: u.Role}, err
}

// defaultHashCost is bcrypt's work factor: about a quarter of a second a try in 2026.
const defaultHashCost = 12

// nobody is compared with when there is no such login, so that both take the same time.
func (d *Desk) makeNobody() []byte {
	h, err := bcrypt.GenerateFromPassword([]byte("nobody has this password"), d.hashCost)
	if err != nil {
		panic(err) // only a cost out of range can do this
	}
	return h
}

// SignIn returns the person of that login if the password is right.
func (d *Desk) SignIn(ctx context.Context, login, password string) (Actor, error) {
	u, found, err := d.store.Read(ctx).UserByLogin(strings.ToLower(strings.TrimSpace(login)))
	if err != nil {
		return Actor{}, err
	}
	hash := d.nobody()
	if found && u.Active && u.PasswordHash != "" {
		hash = []byte(u.PasswordHash)
	}
	wrong := bcrypt.CompareHashAndPassword(hash, []byte(password)) != nil
	if wrong || !found || !u.Active || u.PasswordHash == "" {
		return Actor{}, Forbidden("That login and password do not belong together. Check both, or ask a manager.")
	}
	return Actor{ID: u.ID, Name: u.Name, Role: Role(u.Role)}, nil
}

// Person returns the active person of that key.
func (d *Desk) Person(ctx context.Context, id int64) (Actor, bool, error) {
	u, found, err := d.store.Read(ctx).UserByID(id)
	return Actor{ID: u.ID, Name: u.Name, Role: Role(u.Role)}, found && u.Active, err
}

// PersonByLogin returns the active person of that login.
func (d *Desk) PersonByLogin(ctx context.Context, login string) (Actor, bool, error) {
	u, found, err := d.store.Read(ctx).UserByLogin(login)
	return Actor{ID: u.ID, Name: u.Name, Role: Role(u.Role)}, found && u.Active, err
}

// carrierLogin is in whose name news from the carrier is recorded. Nobody can sign in with it.
const carrierLogin = "carrier"

// CarrierActor is in whose name news from the carrier is recorded, made if it is not there yet.
func (d *Desk) CarrierActor(ctx context.Context) (Actor, error) {
	who, found, err := d.PersonByLogin(ctx, carrierLogin)
	if err != nil || found {
		return who, err
	}
	if who, err = d.AddUser(ctx, NewUser{Login: carrierLogin, Name: "Carrier", Role: Floor}); err == nil {
		return who, nil
	}
	who, _, again := d.PersonByLogin(ctx, carrierLogin) // another server was quicker
	if who.ID != 0 {
		return who, again
	}
	return who, err
}
