package store

import (
	"fmt"
	"strings"
)

// Papers is the list of what was printed, the latest first. Its scope "state" is empty for what stands, void, or all.
var Papers = &List{
	Name: "papers", First: "age", FirstIn: map[string]SortedBy{"": {"age", true}, "void": {"age", true}, "all": {"age", true}},
	tie: part{"p.id", Number}, key: "p.id",
	Columns: []Column{
		{Name: "age", Kind: Number, By: "p.id"},
		{Name: "code", Title: "Code", Kind: Text, By: "p.code"},
		{Name: "kind", Title: "Sheet", Kind: Text, By: "p.kind", Group: true},
		{Name: "of", Title: "Of", Kind: Text, By: "coalesce(k.number, o.number, g.number)"},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "p.warehouse_id", Group: true},
		{Name: "at", Title: "Printed", Kind: Moment, By: "m.at"},
		{Name: "who", Title: "Printed by", Kind: Text, By: "u.name", Group: true},
		{Name: "revision", Title: "Revision", Kind: Number, By: "p.revision"},
		{Name: "void", Title: "Void", Kind: Text, By: "p.void_why", Group: true},
		{Name: "void_by", Title: "Made void by", Kind: Text, By: "coalesce(x.name, '')", Group: true},
		{Name: "trouble", Title: "Trouble", Kind: Text, By: "r.trouble", Group: true},
	},
	begin: func(_ *Reader, ask ListAsk, _ bool) (*rows, error) {
		_, args := found(ask.Words, "")
		var conds []string
		for i := range ask.Words {
			conds = append(conds, strings.ReplaceAll(`(lower(p.code) LIKE lower(@w)
				OR p.package_id IN (SELECT id FROM package WHERE lower(number) LIKE lower(@w)) OR p.order_id IN (
				SELECT id FROM sales_order WHERE found_by LIKE lower(@w)
				UNION ALL SELECT y.id FROM customer c JOIN sales_order y ON y.customer_id = c.id WHERE c.found_by LIKE lower(@w)))`,
				"@w", fmt.Sprintf("@w%d", i)))
		}
		switch ask.Scope["state"] {
		case "":
			conds = append(conds, "p.void_by IS NULL")
		case "void":
			conds = append(conds, "p.void_by IS NOT NULL")
		}
		return &rows{conds: conds, args: args, from: func(shows string) string {
			return "paper p" + joins(
				shows,
				join{"k", "pick_list k ON k.id = p.pick_list_id"},
				join{"o", "sales_order o ON o.id = p.order_id"},
				join{"g", "package g ON g.id = p.package_id"},
				join{"w", "warehouse w ON w.id = p.warehouse_id"},
				join{"r", "print_run r ON r.id = p.print_run_id"},
				join{"m", "command m ON m.id = r.command_id"},
				join{"u", "app_user u ON u.id = m.actor_id"},
				join{"v", "command v ON v.id = p.void_by"},
				join{"x", "app_user x ON x.id = v.actor_id"},
			)
		}}, nil
	},
}
