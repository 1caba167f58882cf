package command

import (
	"slices"
	"strings"
)

// Role is what a person comes for.
type Role string

// The roles.
const (
	Coordinator Role = "coordinator"
	Sales       Role = "sales"
	Floor       Role = "floor"
	Manager     Role = "manager"
)

// Roles lists the roles with what each is for.
var Roles = []Role{Coordinator, Sales, Floor, Manager}

// Verb names a command.
type Verb string

// The verbs.
const (
	VerbAllocate Verb = "allocate"
	VerbGiveBack Verb = "give back"
	VerbRelease  Verb = "release"
	VerbRecall   Verb = "recall"
	VerbPick     Verb = "pick"
	VerbPack     Verb = "pack"
	VerbUnpack   Verb = "unpack"
	VerbPrint    Verb = "print"
	VerbSetBin   Verb = "set a bin"
	VerbHand     Verb = "hand over a pick list"
	VerbCount    Verb = "count a bin"
	VerbPutBack  Verb = "put back"
	VerbDispatch Verb = "dispatch"
	VerbDeliver  Verb = "deliver"
	VerbReceive  Verb = "receive"
	VerbDrop     Verb = "drop"
	VerbReopen   Verb = "reopen"
	VerbHold     Verb = "hold"
	VerbLift     Verb = "lift"
	VerbImport   Verb = "import"
	VerbUndo     Verb = "undo"
	VerbPromise  Verb = "promise"
	VerbMoveDue  Verb = "move an arrival"
	VerbSettings Verb = "change the settings"
	VerbEnter    Verb = "enter an order"
	VerbChange   Verb = "change an order"
	VerbQuote    Verb = "quote"
	VerbApprove  Verb = "approve a quote"
	VerbBuy      Verb = "request to buy"
	VerbSettle   Verb = "settle a request to buy"
	VerbPolicy   Verb = "set policies"
	VerbRun      Verb = "run a policy"
	VerbMove     Verb = "move units"
	VerbMakeRoom Verb = "make room"
	VerbStop     Verb = "stop a command"
	VerbPeople   Verb = "manage people"
	VerbPassword Verb = "change one's own sign-in"
	VerbView     Verb = "keep a view"
	VerbViewAll  Verb = "keep a view for all"
	VerbLiftAll  Verb = "lift any hold"
	VerbLot      Verb = "recall a lot"
)

// Verbs of the server's own: nobody can ask for them. They record what the outside says, in the name of the person whom it concerns.
const (
	VerbDepart    Verb = "depart"            // the carrier has taken a shipment
	VerbNotTaken  Verb = "not taken"         // the carrier has not
	VerbException Verb = "carrier exception" // something was in the way of a shipment under way
)

var own = []Verb{VerbDepart, VerbNotTaken, VerbException}

// who may do what. A manager may do everything.
var who = map[Verb][]Role{
	VerbAllocate: {Coordinator},
	VerbGiveBack: {Coordinator},
	VerbRelease:  {Coordinator},
	VerbRecall:   {Coordinator, Sales},
	VerbPick:     {Coordinator, Floor},
	VerbPack:     {Coordinator, Floor},
	VerbUnpack:   {Coordinator, Floor},
	VerbPrint:    {Coordinator, Floor},
	VerbSetBin:   {Coordinator, Floor},
	VerbHand:     {Coordinator, Floor},
	VerbCount:    {Coordinator, Floor},
	VerbPutBack:  {Coordinator, Floor},
	VerbDispatch: {Coordinator, Floor},
	VerbDeliver:  {Coordinator, Floor},
	VerbReceive:  {Coordinator, Floor},
	VerbDrop:     {Coordinator, Sales},
	VerbReopen:   {Coordinator, Sales},
	VerbHold:     {Coordinator, Sales},
	VerbLift:     {Coordinator},
	VerbImport:   {Coordinator},
	VerbUndo:     {Coordinator, Sales, Floor},
	VerbPromise:  {Coordinator, Sales},
	VerbMoveDue:  {Coordinator},
	VerbSettings: {},
	VerbEnter:    {Coordinator, Sales},
	VerbChange:   {Coordinator, Sales},
	VerbQuote:    {Coordinator, Sales},
	VerbApprove:  {},
	VerbBuy:      {Coordinator, Sales},
	VerbSettle:   {Coordinator},
	VerbPolicy:   {},
	VerbRun:      {Coordinator},
	VerbMove:     {Coordinator},
	VerbMakeRoom: {Coordinator},
	VerbStop:     {Coordinator, Sales, Floor},
	VerbPeople:   {},
	VerbPassword: {Coordinator, Sales, Floor},
	VerbView:     {Coordinator, Sales, Floor},
	VerbViewAll:  {Coordinator},
	VerbLiftAll:  {},
	VerbLot:      {Coordinator},
}

// May says whether the role may do the verb.
func (r Role) May(v Verb) bool {
	return r == Manager || slices.Contains(who[v], r) || slices.Contains(own, v)
}

// Verbs lists what the role may do, sorted.
func (r Role) Verbs() []string {
	out := []string{}
	for v := range who {
		if r.May(v) {
			out = append(out, string(v))
		}
	}
	slices.Sort(out)
	return out
}

// Allowed refuses whose role may not do the verb, and says whose may.
func (v Verb) Allowed(a Actor) error {
	if a.Role.May(v) {
		return nil
	}
	names := []string{}
	for _, r := range who[v] {
		names = append(names, string(r))
	}
	return Forbidden(
		"You are signed in as %s; to %s is for %s. Ask one of them.", a.Role, v, strings.Join(append(names, "manager"), " or "),
	)
}

// Long says whether the verb may concern thousands of lines.
func (v Verb) Long() bool {
	switch v {
	case VerbImport, VerbRun, VerbUndo, VerbGiveBack, VerbAllocate, VerbRelease, VerbLot:
		return true
	}
	return false
}

// Undoable says whether a command of that verb may be undone while nothing else has happened to its lines.
func (v Verb) Undoable() bool {
	switch v {
	case VerbAllocate, VerbGiveBack, VerbRelease, VerbDrop, VerbReopen, VerbPromise, VerbRun, VerbMove, VerbMakeRoom:
		return true
	}
	return false
}

// MayTakeBack says whether the actor may take back what that user did: whoever may not do it any more may not undo it.
func MayTakeBack(actor Actor, user int64, verb Verb) error {
	if err := VerbUndo.Allowed(actor); err != nil {
		return err
	}
	if user != actor.ID && actor.Role != Manager {
		return Forbidden("Somebody else did that; only they or a manager can undo it.")
	}
	return verb.Allowed(actor)
}
