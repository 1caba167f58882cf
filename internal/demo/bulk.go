package demo

import (
	"fmt"
	"strings"

	"journeyman/internal/exchange"
)

// Bulk is a book of that many open order lines, three an order, over a thousand
// items with plenty of stock in one warehouse: for benchmarks and tests.
func Bulk(lines int) []exchange.File {
	const items = 1000
	var is, ss, os strings.Builder
	is.WriteString("sku,name,price,cost\n")
	ss.WriteString("warehouse,sku,bin,on_hand\n")
	for i := range min(items, lines) {
		fmt.Fprintf(&is, "X-%d,Thing %d,2.00,1.00\n", i, i)
		fmt.Fprintf(&ss, "HL,X-%d,A-%d-%d,%d\n", i, i/20, i%20, lines/items*20+1000)
	}
	os.WriteString("order,customer,wanted,line,sku,qty\n")
	for i := range lines {
		fmt.Fprintf(&os, "SO-%d,C,2027-03-01,%d,X-%d,%d\n", i/3, i%3+1, (i*7919)%min(items, lines), 5+i%9)
	}
	return []exchange.File{
		{Name: "items.csv", Data: []byte(is.String())},
		{Name: "stock.csv", Data: []byte(ss.String())},
		{Name: "customers.csv", Data: []byte("customer,name,ship_to,warehouse\nC,A customer,MAIN,HL\n")},
		{Name: "orders.csv", Data: []byte(os.String())},
	}
}
