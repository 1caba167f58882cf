package demo

import (
	"bufio"
	"errors"
	"fmt"
	"io"
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
	_ = WriteOrders(&os, lines, min(items, lines))
	return []exchange.File{
		{Name: "items.csv", Data: []byte(is.String())},
		{Name: "stock.csv", Data: []byte(ss.String())},
		{Name: "customers.csv", Data: []byte("customer,name,ship_to,warehouse\nC,A customer,MAIN,HL\n")},
		{Name: "orders.csv", Data: []byte(os.String())},
	}
}

// WriteOrders writes that many order lines of Bulk over so many items as CSV.
func WriteOrders(w io.Writer, lines, items int) error {
	return write(w, lines, func(b io.Writer, i int) error {
		_, err := fmt.Fprintf(b, "SO-%d,C,2027-03-01,%d,X-%d,%d\n", i/3, i%3+1, (i*7919)%items, 5+i%9)
		return err
	})
}

// WriteFaultyOrders writes that many order lines in each of which hardly anything is right.
func WriteFaultyOrders(w io.Writer, lines int) error {
	return write(w, lines, func(b io.Writer, i int) error {
		_, err := fmt.Fprintf(b, "SO-%d,NOBODY-%d,soon,%d,NOTHING-%d,-%d\n", i/3, i, i%3+1, i, 1+i%9)
		return err
	})
}

func write(w io.Writer, lines int, row func(io.Writer, int) error) error {
	b := bufio.NewWriter(w)
	_, err := b.WriteString("order,customer,wanted,line,sku,qty\n")
	for i := range lines {
		if err == nil {
			err = row(b, i)
		}
	}
	return errors.Join(err, b.Flush())
}
