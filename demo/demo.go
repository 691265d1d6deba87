// Package demo makes the demo workspace: the touring exhibition Salt and
// Signal of the Lantern Coast Museum. Everything in it is made up. Dates are
// relative to the day it is made, so that something is always overdue.
package demo

import (
	_ "embed"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"example.org/kavlo/internal/standin/listserver"
)

//go:embed setup.yaml
var setup string

// Past is the setup file of the tracker to which loans of earlier tours go.
//
//go:embed past.yaml
var Past string

// Tracker is the name of the demo's tracker.
const Tracker = "Touring loans"

// Setup gives the demo tracker's setup file, with the address of the list server.
func Setup(lists string) string {
	return strings.ReplaceAll(setup, "LISTS", strings.TrimRight(lists, "/"))
}

// Person is somebody of the demo.
type Person struct{ Name, Address, Access string }

// People work at the museum. The first is the coordinator.
var People = []Person{
	{"Ines Valadar", "ines.valadar@example.org", "keeper"},
	{"Marta Quell", "marta.quell@example.org", "editor"},
	{"Joren Aske", "joren.aske@example.org", "editor"},
	{"Tilde Brannock", "tilde.brannock@example.org", "editor"},
	{"Oskar Vey", "oskar.vey@example.org", "reader"},
	{"Runa Halloway", "runa.halloway@example.org", "reader"},
}

var (
	registrars = []string{"marta.quell@example.org", "joren.aske@example.org", "tilde.brannock@example.org"}
	couriers   = []string{"oskar.vey@example.org", "runa.halloway@example.org"}
	venues     = []string{"North Pier", "Annex", "Old Mill", "Harbour Hall"}
	makes      = []string{"Brass", "Painted", "Tin", "Walnut", "Engraved", "Salvaged", "Miniature", "Enamelled"}
	things     = []string{"sextant", "signal lamp", "chart of the shoals", "ship's bell", "figurehead", "tide clock", "fog horn", "log book",
		"lighthouse lens", "diver's helmet", "sailmaker's bench", "oil jar", "pilot's chest", "semaphore set", "barometer", "anchor plate", "oar rack", "net float"}
	lenders = []string{"Quillmoor Trust", "Port Averin Archive", "Hask & Daughters", "Ostrel Island Society", "The Tarn Collection",
		"Vessel Museum of Corrin", "Family Lindqvael", "Saltmarsh Library", "Dunmere Rope Works", "Bell Foundry of Astre"}
	countries = []string{"Averin", "Corrin", "Ostrel", "Tarnland", "Dunmere"}
)

// Loans is how many objects are on loan.
const Loans = 140

// Rows gives the demo's rows by tab, as the API takes them.
func Rows(today time.Time) map[string][]map[string]any {
	rng := rand.New(rand.NewPCG(1871, 4)) // the same demo every day, but for its dates
	day := func(from, to int) string {
		return today.AddDate(0, 0, from+rng.IntN(to-from+1)).Format(time.DateOnly)
	}
	pick := func(of []string) string { return of[rng.IntN(len(of))] }
	out := map[string][]map[string]any{}
	var names []string
	for _, m := range makes {
		for _, t := range things {
			names = append(names, m+" "+t)
		}
	}
	rng.Shuffle(len(names), func(i, j int) { names[i], names[j] = names[j], names[i] })
	for i := range Loans {
		stage := stageOf(i)
		row := map[string]any{"Loan no": fmt.Sprintf("L-%04d", 1001+i*3), "Object": names[i], "Lender": pick(lenders), "Stage": stage, "Registrar": pick(registrars)}
		if i%31 == 7 {
			row["Remarks"] = "Lender asks for a call before anything is moved."
		}
		value := fmt.Sprint((4 + rng.IntN(1700)) * 50)
		switch stage {
		case "Requested":
			row["Value"], row["Requested on"], row["Due"] = value, day(-60, -10), day(-6, 40)
			row["Image"] = fmt.Sprintf("photo <https://images.example.org/%d>", 1001+i*3)
		case "Agreed":
			row["Value"], row["Due"], row["Venue"], row["Insured until"] = value, day(-4, 35), pick(venues), day(20, 400)
		case "Crating":
			row["Value"], row["Due"], row["Venue"] = value, day(-3, 20), pick(venues)
			row["Crate"], row["Fragility"], row["Packed"] = fmt.Sprintf("K-%03d", 100+i), fmt.Sprint(1+rng.IntN(5)), rng.IntN(3) == 0
		case "In transit":
			row["Courier"], row["Venue"], row["Crate"] = pick(couriers), pick(venues), fmt.Sprintf("K-%03d", 100+i)
			row["Left"], row["Expected"] = day(-9, -2), day(-2, 8)
			if i%17 == 0 {
				row["Expected"] = "" // the courier has not said
			}
		case "On display":
			row["Value"], row["Venue"], row["Arrived"] = value, pick(venues), day(-50, -1)
			if rng.IntN(3) > 0 {
				row["Condition report"] = fmt.Sprintf("report %d.pdf <files/report-%d.pdf>", 1001+i*3, 1001+i*3)
			}
			if i%29 == 11 {
				row["Arrived"] = "TBC"
			}
		case "Returned":
			row["Returned on"] = day(-90, -3)
		}
		out[stage] = append(out[stage], row)
	}
	for i, v := range venues {
		out["Venues"] = append(out["Venues"], map[string]any{"Name": v, "Opens": today.AddDate(0, 0, 14*i-10).Format(time.DateOnly), "Contact": registrars[i%len(registrars)]})
	}
	for i, c := range countries {
		out["Countries"] = append(out["Countries"], map[string]any{"Country": c, "Customs code": []string{"9705E10", "0042", "9703", "0117", "97060000"}[i]})
	}
	return out
}

// stageOf spreads the loans over the stages as a tour under way has them.
func stageOf(i int) string {
	for _, s := range []struct {
		name  string
		until int
	}{{"Requested", 28}, {"Agreed", 52}, {"Crating", 72}, {"In transit", 86}, {"On display", 126}} {
		if i < s.until {
			return s.name
		}
	}
	return "Returned"
}

// ServeLists gives the stand-in list server the demo's lists.
func ServeLists(s *listserver.Server, today time.Time) {
	s.Configure("lenders", listserver.Settings{Revs: true})
	s.Configure("insurance", listserver.Settings{Key: "number", Paged: "cursor"})
	s.Configure("couriers", listserver.Settings{Key: "loan", Paged: "page"})
	for name, records := range lists(today) {
		s.Put(name, records)
	}
}

// Disagree changes lists as if others had worked on them.
func Disagree(s *listserver.Server) {
	s.Set("lenders", "004", listserver.Record{"contact": "office.ostrel@example.org", "address": map[string]any{"country": "Averin"}})
	for i, r := range s.Records("insurance") {
		if i%5 > 0 {
			s.Remove("insurance", fmt.Sprint(r["number"]))
		}
	}
}

// lists gives what the lists hold.
func lists(today time.Time) map[string][]listserver.Record {
	rng := rand.New(rand.NewPCG(97, 5))
	out := map[string][]listserver.Record{}
	for i := range 36 {
		name := fmt.Sprintf("Private lender %02d", i+1)
		if i < len(lenders) {
			name = lenders[i]
		}
		out["lenders"] = append(out["lenders"], listserver.Record{"id": fmt.Sprintf("%03d", i+1), "name": name, "contact": fmt.Sprintf("lender%02d@example.org", i+1),
			"address": map[string]any{"country": countryOf(rng, i), "town": "Harbour Row"},
			"policy":  map[string]any{"end": today.AddDate(0, 0, rng.IntN(500)-20).Format(time.DateOnly)}})
	}
	for i := range 40 {
		out["insurance"] = append(out["insurance"], listserver.Record{"number": fmt.Sprintf("%05d", i*37%1000), "lender": lenders[i%len(lenders)],
			"covers": map[string]any{"amount": (20 + rng.IntN(900)) * 1000, "currency": "EUR"}, "ends": today.AddDate(0, i-4, 0).Format(time.DateOnly)})
	}
	return out
}

// countryOf gives a lender's country; the last one's has no customs code yet.
func countryOf(rng *rand.Rand, i int) string {
	if c := countries[rng.IntN(len(countries))]; i < 35 {
		return c
	}
	return "Vellmark"
}
