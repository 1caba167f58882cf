// Package demo makes the demo scenario: Kilnmoor Ceramic Supply, an invented
// wholesaler to potters. Everything is generated from a fixed seed around today,
// imported from CSV files and carried forward by ordinary commands, so that its
// journal is as true as any other. The same generator makes big books.
package demo

import (
	"fmt"
	"math/rand/v2"
)

type item struct {
	sku, name, unit string
	multiple        int64
	lead            int
	buyable         bool
	weightG         int64
	size            [3]int64 // length, width and height in millimetres
	price, cost     int64    // minor units
	house           string
	bin             string
	zone            string
	big             bool // ordered in ones and twos
	lots            bool // it is noted of which lot its units are
}

type customer struct {
	code, name, rule, house, service, terms string
	tier                                    int
	ships                                   []shipTo
}

type shipTo struct{ code, name, street, city, postcode string }

var glazes = []string{
	"Celadon", "Tenmoku", "Clear", "Tin white", "Ash blue", "Iron red", "Copper green", "Oatmeal", "Shino", "Chun",
	"Honey amber", "Slate", "Rutile blue", "Satin black", "Magnolia", "Moss", "Plum", "Cobalt", "Sand matt", "Pearl",
}

var bodies = []string{
	"Stoneware clay", "Stoneware, grogged", "Porcelain", "Earthenware, red", "Earthenware, white", "Raku body", "Crank clay",
	"Black stoneware", "Paper clay", "Casting slip, white", "Casting slip, porcelain", "School buff clay", "Terracotta, fine", "Bone body",
}

var tools = []string{
	"Loop tool, set of 6", "Needle tool", "Wire cutter", "Wooden rib", "Steel kidney", "Rubber kidney", "Turning tool, set of 4",
	"Sponge, natural",
	"Sponge, synthetic", "Bamboo brush", "Hake brush", "Glaze tongs", "Sieve, 80 mesh", "Sieve, 120 mesh", "Banding wheel, 20 cm",
	"Caliper",
	"Rolling guide, pair", "Slip trailer", "Wedging board", "Apron, canvas", "Tile cutter", "Texture roller",
}

var furniture = []string{
	"Kiln shelf, 30 × 40", "Kiln shelf, 45 × 60", "Kiln shelf, half round", "Prop, 25 mm", "Prop, 50 mm", "Prop, 100 mm", "Prop, 150 mm",
	"Stilt, small", "Stilt, large", "Tile crank", "Batt wash, 1 kg", "Cone, 1060 °C, box", "Cone, 1240 °C, box", "Cone, 1280 °C, box",
	"Peg, 20 mm",
}

// catalogue is about 150 items with their usual bins.
func catalogue(r *rand.Rand) []item {
	var out []item
	add := func(it item) {
		it.cost = it.price * int64(52+r.IntN(14)) / 100
		it.lead = []int{8, 10, 12, 15, 20}[r.IntN(5)]
		out = append(out, it)
	}
	addGlazes(add)
	addBodies(add)
	addTools(add)
	addMachines(add)
	return out
}

// glazeSizes are those of a bottle, a tub and a drum.
var glazeSizes = [][3]int64{{90, 90, 220}, {200, 200, 260}, {320, 320, 420}}

// addGlazes adds glazes in three sizes.
func addGlazes(add func(item)) {
	for i, g := range glazes {
		for j, size := range []struct {
			suffix, text, unit string
			litres             int64
		}{{"1", "1 L", "bottle", 1}, {"5", "5 L", "tub", 5}, {"25", "25 L", "drum", 25}} {
			no := 2040 + i*35
			add(item{
				sku: fmt.Sprintf("GL-%d-%s", no, size.suffix), name: g + " glaze, " + size.text, unit: size.unit, multiple: 1,
				buyable: true,
				weightG: 1400 * size.litres, size: glazeSizes[j], price: (1180 + int64(i)*35) * size.litres * int64(100-6*j) / 100,
				house: "HL", bin: fmt.Sprintf("C-%02d-%d", 2+i, 1+3*j), zone: "C", big: size.litres == 25, lots: size.litres == 25,
			})
		}
	}
}

// addBodies adds clay bodies in one size or two.
func addBodies(add func(item)) {
	for i, b := range bodies {
		for j, kg := range []string{"12.5", "25"} {
			if j == 1 && i%2 == 1 {
				continue
			}
			w := int64(12500 * (j + 1))
			sku := fmt.Sprintf("CB-%d", 110+i*4)
			multiple := int64(4)
			if j == 1 {
				sku, multiple = sku+"-25", 2
			}
			house, bin := "DQ", fmt.Sprintf("Y-%02d", 1+i)
			if i < 6 && j == 0 {
				house, bin = "HL", fmt.Sprintf("A-%02d-1", 1+i)
			}
			add(item{
				sku: sku, name: b + ", " + kg + " kg", unit: "bag", multiple: multiple, buyable: true, weightG: w,
				size:  [3]int64{300 + int64(j)*100, 200 + int64(j)*60, 120 + int64(j)*40},
				price: (980 + int64(i)*60) * int64(j+1) * 95 / 100,
				house: house, bin: bin, zone: bin[:1],
			})
		}
	}
}

// addTools adds tools and kiln furniture.
func addTools(add func(item)) {
	for i, n := range tools {
		add(item{
			sku: fmt.Sprintf("TL-%03d", 14+i*3), name: n, unit: "each", multiple: 1, buyable: true, weightG: 120 + int64(i)*45,
			size:  [3]int64{180 + int64(i%5)*30, 60 + int64(i%4)*25, 25 + int64(i%3)*20},
			price: 390 + int64(i)*110,
			house: []string{"HL", "EG"}[i%3/2], bin: fmt.Sprintf("T-%02d-%d", 1+i/5, 1+i%5*2), zone: "T",
		})
	}
	for i, n := range furniture {
		add(item{
			sku: fmt.Sprintf("KF-%d", 310+i*10), name: n, unit: "each", multiple: 1, buyable: true, weightG: 300 + int64(i%4)*2900,
			size:  [3]int64{120 + int64(i%4)*110, 80 + int64(i%4)*90, 20 + int64(i%4)*5},
			price: 240 + int64(15-i)*310,
			house: "HL", bin: fmt.Sprintf("K-%02d-%d", 1+i/4, 1+i%4*3), zone: "K",
		})
	}
}

// addMachines adds wheels, kilns and sundries.
func addMachines(add func(item)) {
	for i, n := range []string{"Table-top wheel", "Studio wheel", "Studio wheel, quiet drive", "School wheel", "Kick wheel"} {
		add(item{
			sku: fmt.Sprintf("WH-%02d", 10+i*5), name: n, unit: "each", multiple: 1, buyable: true, weightG: 28_000 + int64(i)*9000,
			size:  [3]int64{600 + int64(i)*60, 550 + int64(i)*40, 500 + int64(i)*60},
			price: 52_000 + int64(i)*17_000,
			house: "HL", bin: fmt.Sprintf("W-%02d", 1+i), zone: "W", big: true,
		})
	}
	for i, n := range []string{
		"Test kiln, 12 L", "Top-loading kiln, 70 L", "Top-loading kiln, 120 L", "Front-loading kiln, 150 L", "Front-loading kiln, 300 L",
	} {
		add(item{
			sku: fmt.Sprintf("KL-%03d", 40+i*30), name: n, unit: "each", multiple: 1, buyable: i != 1, weightG: 48_000 + int64(i)*60_000,
			size:  [3]int64{600 + int64(i)*110, 600 + int64(i)*110, 700 + int64(i)*120},
			price: 89_000 + int64(i)*98_000,
			house: "DQ", bin: fmt.Sprintf("Y-%02d", 40+i), zone: "Y", big: true,
		})
	}
	for i, n := range []string{
		"Decal paper, A4", "Underglaze pencil", "Latex resist, 500 ml", "Gold lustre, 10 g", "Mould plaster, 25 kg", "Newspaper print slip",
		"Sgraffito set", "Gloves, kiln", "Goggles, kiln", "Cork mat", "Lid gauge", "Handle extruder", "Pin roll",
	} {
		add(item{
			sku: fmt.Sprintf("SG-%03d", 205+i*5), name: n, unit: "each", multiple: 1, buyable: true, weightG: 150 + int64(i)*80,
			size:  [3]int64{200 + int64(i%4)*25, 120 + int64(i%3)*20, 10 + int64(i%5)*12},
			price: 320 + int64(i)*140,
			house: "EG", bin: fmt.Sprintf("E-%02d-%d", 1+i/4, 1+i%4), zone: "E",
		})
	}
}

var towns = []string{
	"Aldersyke", "Brackenfield", "Saltpan", "Tidewrack", "Ovenbird", "Millrace", "Thornhythe", "Eskerby", "Marlwick", "Quernside",
	"Fellgarth", "Harebell", "Sedgemire", "Coldwharf", "Larkrigg", "Withycombe Sands", "Emberly", "Gorsedale", "Netherclay", "Ruddleby",
}

var sorts = []struct {
	name, channel, rule, service string
	tier                         int
}{
	{"College", "telephone", "whole", "pallet", 1},
	{"Studio", "web", "any", "parcel", 3},
	{"Pottery Shop", "representative", "any", "pallet", 3},
	{"Potters' Co-op", "telephone", "lines", "pallet", 2},
}

// customers are eighty schools, studios, shops and co-operatives, and the web shop.
func customers(r *rand.Rand) []customer {
	out := []customer{{
		code: "WEB", name: "Web shop", tier: 4, rule: "any", house: "HL", service: "parcel", terms: "prepaid",
		ships: []shipTo{{"RETAIL", "Web shop retail orders", "Harrow Lane 1", "Kilnmoor", "KM1 1AA"}},
	}}
	for i := range 79 {
		town, sort := towns[i%len(towns)], sorts[(i/len(towns)+i)%len(sorts)]
		c := customer{
			code: fmt.Sprintf("C%03d", 101+i), name: town + " " + sort.name, tier: sort.tier, rule: sort.rule, house: "HL",
			service: sort.service,
			terms:   []string{"included", "flat", "cost plus", "free above"}[r.IntN(4)],
		}
		if i >= 3*len(towns) {
			c.tier = min(5, c.tier+1)
		}
		if sort.name == "College" && i%3 != 0 {
			c.rule = "any"
		}
		main := shipTo{
			"MAIN", c.name, fmt.Sprintf(
				"%d %s", 1+r.IntN(90), []string{"Weir Road", "Mill Bank", "Quay Street", "Chapel Rise", "Old Net Loft"}[r.IntN(5)],
			), town,
			fmt.Sprintf(
				"%s%d %d%s", string(town[0])+string(town[1]-32), 1+r.IntN(9), 1+r.IntN(9), []string{"AB", "QT", "HH", "PD"}[r.IntN(4)],
			),
		}
		c.ships = []shipTo{main}
		if i%4 == 0 {
			annex := main
			annex.code, annex.name, annex.street = "ANNEX", c.name+" annex", fmt.Sprintf("%d Lower Ground", 1+r.IntN(40))
			c.ships = append(c.ships, annex)
		}
		out = append(out, c)
	}
	return out
}
