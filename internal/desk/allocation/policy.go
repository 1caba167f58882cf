package allocation

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"strings"

	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Reserve keeps a part of what is free for a tier or a channel.
type Reserve struct {
	SKU     string `json:"sku,omitempty" maxLength:"60" doc:"Of this item; of all items if empty"`
	Percent int    `json:"percent" minimum:"1" maximum:"100" doc:"Of what is free when a run begins"`
	Tier    int    `json:"tier,omitempty" minimum:"0" maximum:"5" doc:"For this tier and those before it"`
	Channel string `json:"channel,omitempty" maxLength:"40" doc:"For this channel"`
}

// PolicyRules is by which rules a whole book is served.
type PolicyRules struct {
	Keys      []string  `json:"keys" minItems:"1" maxItems:"6" doc:"Sort by" enum:"tier,urgency,ship_by,entered,value,order"`
	Sharing   string    `json:"sharing" enum:"in-turn,fair,equal" doc:"How lines are served that are equal in all keys"`
	Goal      string    `json:"goal" enum:"keys,orders,value" doc:"What is made as great as can be before lines are served in turn"`
	Window    *int      `json:"window,omitempty" minimum:"0" maximum:"3650" doc:"Only lines to be shipped within so many days are served"`
	Protect   bool      `json:"protect" doc:"What is promised to others is not taken"`
	ShipRules string    `json:"ship_rules" enum:"respect,ignore"`
	Elsewhere bool      `json:"elsewhere" doc:"Lines may draw on other warehouses than their own, but for customers who insist on one"`
	Reserves  []Reserve `json:"reserves" maxItems:"40"`
}

func (p PolicyRules) keys() ([]policy.Key, error) {
	ks, err := policy.Parse(strings.Join(p.Keys, ","))
	if err != nil {
		return nil, command.Invalid("%s.", err)
	}
	return ks, nil
}

// PolicyView is a policy with its name.
type PolicyView struct {
	ID      int64         `json:"id"`
	Name    string        `json:"name"`
	Rules   PolicyRules   `json:"rules"`
	Words   words.Message `json:"words" doc:"What it does, in a sentence"`
	Default bool          `json:"default"`
	Version int64         `json:"version"`
}

// PoliciesView is all policies and what was done to them.
type PoliciesView struct {
	Policies []PolicyView `json:"policies"`
	Channels []string     `json:"channels" doc:"Those of which there are orders"`
	Trail    []PolicyNote `json:"trail" doc:"What was done to policies, the newest first"`

	Allocated []store.AllocatedAt `json:"allocated" doc:"What could be given back: everywhere, which has no code, then by warehouse"`
}

// PolicyNote is something that was done to a policy.
type PolicyNote struct {
	At   string        `json:"at" format:"date-time"`
	Who  string        `json:"who"`
	Text words.Message `json:"text"`
}

var keyWords = map[string]words.Message{
	"tier": words.Say("tier"), "urgency": words.Say("urgency"), "ship_by": words.Say("ship-by day"), "entered": words.Say("time of entry"),
	"value": words.Say("value"), "order": words.Say("order number"),
}

// words says what the policy does.
func (p PolicyRules) words() words.Message {
	var ks []words.Message
	for _, k := range p.Keys {
		ks = append(ks, keyWords[k])
	}
	parts := []words.Message{words.Say("Serves by %s", words.List(ks, ", then "))}
	say := func(pattern string, args ...any) { parts = append(parts, words.Say(pattern, args...)) }
	switch p.Sharing {
	case "fair":
		say("equals share, each the same part of what it wants")
	case "equal":
		say("equals share, each the same number of units")
	}
	switch p.Goal {
	case "orders":
		say("first, tier by tier, as many orders complete as can be")
	case "value":
		say("first, tier by tier, as much value as can be")
	}
	if p.Window != nil {
		say("what ships within %s", words.Count(*p.Window, "day"))
	}
	if !p.Protect {
		say("takes what is promised to others, too")
	}
	if p.ShipRules == "ignore" {
		say("takes no notice of ship rules")
	}
	if p.Elsewhere {
		say("draws on other warehouses")
	}
	for _, r := range p.Reserves {
		whom := words.Say("channel %s", r.Channel)
		if r.Tier > 0 {
			whom = words.Say("tier 1 to %d", r.Tier)
			if r.Tier == 1 {
				whom = words.Say("tier 1")
			}
		}
		what := words.Say("everything")
		if r.SKU != "" {
			what = words.Plain(r.SKU)
		}
		say("keeps %d %% of %s for %s", r.Percent, what, whom)
	}
	return words.Say("%s.", words.List(parts, "; "))
}

func policyView(p store.Policy) (PolicyView, error) {
	v := PolicyView{ID: p.ID, Name: p.Name, Default: p.IsDefault, Version: p.Version, Rules: PolicyRules{
		Keys: p.Keys, Sharing: p.Sharing, Goal: p.Goal, Window: p.WindowDays, Protect: p.Protect,
		ShipRules: p.ShipRules, Elsewhere: p.Elsewhere, Reserves: []Reserve{},
	}}
	if err := json.Unmarshal([]byte(p.Reserves), &v.Rules.Reserves); err != nil {
		return v, err
	}
	v.Words = v.Rules.words()
	return v, nil
}

// Policies returns all policies, the default first.
func (d *Desk) Policies(ctx context.Context) (PoliciesView, error) {
	r := d.Store.Read(ctx)
	out := PoliciesView{Policies: []PolicyView{}, Trail: []PolicyNote{}}
	rows, err := r.Policies()
	if err != nil {
		return out, err
	}
	for _, p := range rows {
		v, err := policyView(p)
		if err != nil {
			return out, err
		}
		out.Policies = append(out.Policies, v)
	}
	if out.Channels, err = r.Channels(); err != nil {
		return out, err
	}
	if out.Allocated, err = r.AllocatedBy(); err != nil {
		return out, err
	}
	changes, err := r.PolicyChanges(20)
	for _, c := range changes {
		text := words.Say("changed %s", c.Policy)
		switch {
		case c.Was == "":
			text = words.Say("made %s", c.Policy)
		case c.Now == "":
			text = words.Say("dropped %s", c.Policy)
		case c.Was == c.Now:
			text = words.Say("made %s the default", c.Policy)
		}
		out.Trail = append(out.Trail, PolicyNote{c.At.UTC().Format("2006-01-02T15:04:05Z"), c.Who, text})
	}
	return out, err
}

// PolicyAsk is a policy as it is to be; ID 0 makes a new one.
type PolicyAsk struct {
	ID    int64       `json:"id,omitempty"`
	Seen  int64       `json:"seen,omitempty" doc:"Version that was seen"`
	Name  string      `json:"name" minLength:"1" maxLength:"60"`
	Rules PolicyRules `json:"rules"`
}

// PolicySeen is a policy as it was seen.
type PolicySeen struct {
	ID   int64 `json:"id"`
	Seen int64 `json:"seen"`
}

func (p PolicyAsk) check() error {
	if strings.TrimSpace(p.Name) == "" {
		return command.Invalid("Give the policy a name.")
	}
	if _, err := p.Rules.keys(); err != nil {
		return err
	}
	kept := map[string]int{}
	for _, r := range p.Rules.Reserves {
		if (r.Tier > 0) == (r.Channel != "") {
			return command.Invalid("A part of the stock is kept either for a tier or for a channel: choose one.")
		}
		if kept[r.SKU] += r.Percent; kept[r.SKU]+kept[""] > 100 && r.SKU != "" || kept[""] > 100 {
			return command.Invalid("More than all of %s would be kept.", cmp.Or(r.SKU, "the stock"))
		}
	}
	return nil
}

// SetPolicy makes a policy or changes one.
//
// Changes of policies come one after another. It refuses a name that is taken, rules that cannot be, and a policy that is not as it
// was seen.
func (d *Desk) SetPolicy(ctx context.Context, call command.Call, ask PolicyAsk) (command.Outcome, error) {
	if err := ask.check(); err != nil {
		return command.Outcome{}, err
	}
	return d.Run(ctx, call, command.VerbPolicy, ask, func(w *command.UnitOfWork) error {
		if err := w.Tx.LockPolicies(); err != nil {
			return err
		}
		ask.Name = strings.TrimSpace(ask.Name)
		if ask.Rules.Reserves == nil {
			ask.Rules.Reserves = []Reserve{}
		}
		reserves, err := json.Marshal(ask.Rules.Reserves)
		if err != nil {
			return err
		}
		p := store.Policy{
			ID: ask.ID, Name: ask.Name, Keys: ask.Rules.Keys, Sharing: ask.Rules.Sharing, Goal: ask.Rules.Goal,
			WindowDays: ask.Rules.Window,
			Protect:    ask.Rules.Protect, ShipRules: ask.Rules.ShipRules, Elsewhere: ask.Rules.Elsewhere, Reserves: string(reserves),
		}
		rows, err := w.Tx.Policies()
		if err != nil {
			return err
		}
		if slices.ContainsFunc(rows, func(x store.Policy) bool { return x.Name == ask.Name && x.ID != ask.ID }) {
			return command.Conflict("There is a policy %s already. Give this one another name.", ask.Name)
		}
		if ask.ID == 0 {
			w.Say("Made the policy %s.", ask.Name)
			return cmp.Or(w.Tx.Create(&p), notePolicy(w, ask.Name, nil, &ask.Rules))
		}
		was, err := seenPolicy(rows, PolicySeen{ask.ID, ask.Seen})
		if err != nil {
			return err
		}
		w.Say("Changed the policy %s.", ask.Name)
		return cmp.Or(w.Tx.SetPolicy(p), notePolicy(w, ask.Name, &was.Rules, &ask.Rules))
	})
}

func notePolicy(w *command.UnitOfWork, name string, was, now *PolicyRules) error {
	id, err := w.Tx.CommandID()
	if err != nil {
		return err
	}
	text := func(p *PolicyRules) string {
		if p == nil {
			return ""
		}
		b, _ := json.Marshal(p) // rules are texts and numbers
		return string(b)
	}
	return w.Tx.NotePolicy(id, name, text(was), text(now))
}

func seenPolicy(rows []store.Policy, seen PolicySeen) (PolicyView, error) {
	for _, p := range rows {
		if p.ID != seen.ID {
			continue
		}
		v, err := policyView(p)
		if err == nil && p.Version != seen.Seen {
			err = command.Conflict("The policy %s has been changed since you saw it. Nothing was done; look at it as it is now.", p.Name)
		}
		return v, err
	}
	return PolicyView{}, command.NotFound("There is no such policy any more. Load the page again.")
}

// DropPolicy forgets a policy that is not the default.
//
// Changes of policies come one after another. It refuses the default, and a policy that is not as it was seen.
func (d *Desk) DropPolicy(ctx context.Context, call command.Call, ask PolicySeen) (command.Outcome, error) {
	return d.onPolicy(ctx, call, ask, func(w *command.UnitOfWork, p PolicyView) error {
		if p.Default {
			return command.Conflict("%s is the default. Make another one the default first.", p.Name)
		}
		w.Say("Deleted the policy %s.", p.Name)
		return cmp.Or(w.Tx.DropPolicy(p.ID), notePolicy(w, p.Name, &p.Rules, nil))
	})
}

// DefaultPolicy makes a policy the one that is used where none is named.
//
// Changes of policies come one after another. It refuses the default as it is, and a policy that is not as it was seen.
func (d *Desk) DefaultPolicy(ctx context.Context, call command.Call, ask PolicySeen) (command.Outcome, error) {
	return d.onPolicy(ctx, call, ask, func(w *command.UnitOfWork, p PolicyView) error {
		if p.Default {
			return command.Conflict("%s is the default already.", p.Name)
		}
		w.Say("%s is the default now.", p.Name)
		return cmp.Or(w.Tx.DefaultPolicy(p.ID), notePolicy(w, p.Name, &p.Rules, &p.Rules))
	})
}

func (d *Desk) onPolicy(
	ctx context.Context, call command.Call, ask PolicySeen, fn func(*command.UnitOfWork, PolicyView) error,
) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbPolicy, ask, func(w *command.UnitOfWork) error {
		if err := w.Tx.LockPolicies(); err != nil {
			return err
		}
		rows, err := w.Tx.Policies()
		if err != nil {
			return err
		}
		p, err := seenPolicy(rows, ask)
		if err != nil {
			return err
		}
		return fn(w, p)
	})
}

// window is within how many days lines are served.
func (p PolicyRules) window() int {
	if p.Window == nil {
		return plan.NoWindow
	}
	return *p.Window
}

// allocateOptions is the policy as the core knows it.
func (p PolicyRules) allocateOptions(b *supply.WholeBook) (plan.AllocateOptions, error) {
	how := plan.AllocateOptions{
		Unprotected: !p.Protect, Share: plan.Sharing(p.Sharing), Goal: plan.Goal(p.Goal), IgnoreRules: p.ShipRules == "ignore",
		Window: p.window(),
	}
	keys, err := p.keys()
	if err != nil {
		return how, err
	}
	how.Keys = keys
	var parts []plan.Part
	for _, r := range p.Reserves {
		parts = append(parts, plan.Part{SKU: r.SKU, Percent: int64(r.Percent), Tier: uint8(r.Tier), For: func(l int32) bool {
			return r.Channel != "" && b.Rows[l].Channel == r.Channel
		}})
	}
	how.Reserves = plan.Reserves(b.Book, parts)
	return how, nil
}
