package demo

import (
	"fmt"
	"math"
	"strings"
	"time"
)

func (f *ferry) makeCustomers() {
	kinds := []string{"Private", "Business", "School", "Freight"}
	for id := 1; id <= f.size.Customers; id++ {
		kind := pick(f, []int{84, 10, 2, 4}, kinds)
		name := f.person()
		if kind != "Private" {
			name = one(f, familyNames) + " " + one(f, []string{
				"Haulage", "Stores", "School", "Farms", "Boatyard", "Bakery", "Travel",
			})
		}
		email := fmt.Sprintf("%s.%d@post.example", strings.ToLower(strings.Fields(name)[0]), id)
		f.add("customers", id, fmt.Sprintf("CU-%05d", id), name, maybe(f, 0.12, email), kind,
			maybe(f, 0.04, pick(f, []int{46, 22, 14, 12, 6}, countries)), f.today.AddDate(0, 0, -f.IntN(3000)-30),
			maybe(f, 0.15, f.Float64() < 0.3))
	}
}

// item is something sold, its list price in hundredths for a mile of the way.
type item struct {
	kind, name     string
	base, perMiles int
}

var (
	fares = []item{{"Fare", "Adult", 900, 42}, {"Fare", "Child", 400, 21}, {"Fare", "Senior", 700, 34}}
	cars  = []item{
		{"Car", "Car up to 5 m", 2200, 95}, {"Car", "Van", 3400, 140}, {"Car", "Motorcycle", 1200, 50},
		{"Car", "Lorry", 9000, 420},
	}
	more = []item{
		{"Cabin", "Day cabin", 3500, 30}, {"Meal", "Breakfast", 1150, 0}, {"Meal", "Supper", 1690, 0},
		{"Fare", "Dog", 600, 0}, {"Fare", "Bicycle", 500, 0},
	}
)

// price of an item on a sailing: dearer in season, in steps, as a price list is.
func price(it item, s sailing) int {
	list := it.base + it.perMiles*routeList[s.route].miles/10
	step := 100
	switch busy := season(s.departs); {
	case busy > 1.5:
		step = 125
	case busy < 0.5:
		step = 85
	}
	return (list*step/100 + 5) / 10 * 10
}

type line struct {
	item     item
	quantity int
	price    int
	refunded bool
}

func (f *ferry) makeBookings() {
	channels := []string{"Web", "Counter", "Phone", "Agency"}
	lineID, paymentID := 0, 0
	for id := 1; id <= f.size.Bookings; id++ {
		n := f.busySailing()
		s := f.sailings[n]
		booked := f.bookedAt(s)
		channel := pick(f, []int{58, 22, 12, 8}, channels)
		var agent any
		if channel == "Counter" || channel == "Phone" {
			agent = 2 + f.IntN(3) + 7*f.IntN(12)
		}
		passengers := 1 + int(f.ExpFloat64()*1.2)
		if f.Float64() < 0.01 {
			passengers += 12 + f.IntN(30) // a school or a coach
		}
		lines := f.lines(passengers, s)
		fare := 0
		for _, l := range lines {
			fare += l.quantity * l.price
		}
		discount := 0
		if f.Float64() < 0.18 {
			discount = one(f, []int{5, 10, 15, 25}) * 100
			fare -= fare * discount / 10000
		}
		status := f.bookingStatus(s)
		f.add("bookings", id, bookingRef(id), 1+int(math.Pow(f.Float64(), 2.2)*float64(f.size.Customers)), n+1,
			agent, channel, status, booked, passengers, decimal(fare, 2), nullIf(discount == 0, decimal(discount, 2)),
			maybe(f, 0.9, one(f, bookingNotes)))
		f.bookings = append(f.bookings, booking{n, booked, fare})
		for _, l := range lines {
			lineID++
			amount := l.quantity * l.price
			if l.refunded {
				amount = -amount
			}
			f.add(
				"booking_lines", lineID, id, l.item.kind, l.item.name, l.quantity, decimal(l.price, 2),
				decimal(amount, 2), l.refunded,
			)
		}
		paymentID = f.pay(id, paymentID, fare, booked, status)
	}
}

func bookingRef(id int) string { return fmt.Sprintf("MB-%06d", id) }

func nullIf(null bool, v any) any {
	if null {
		return nil
	}
	return v
}

// busySailing favours the season, and the first half of the timetable's future
// over the second.
func (f *ferry) busySailing() int {
	for {
		n := f.IntN(len(f.sailings))
		s := f.sailings[n]
		chance := season(s.departs) / 1.85
		if ahead := s.departs.Sub(f.today); ahead > 0 {
			chance *= 1 - ahead.Hours()/24/60
		}
		if f.Float64() < chance {
			return n
		}
	}
}

func (f *ferry) bookedAt(s sailing) time.Time {
	before := time.Duration(f.ExpFloat64()*18*24*float64(time.Hour)) + 20*time.Minute
	at := s.departs.Add(-before).Truncate(time.Second)
	if now := f.today.Add(-time.Hour); at.After(now) {
		at = now.Add(-time.Duration(f.IntN(20*24*3600)) * time.Second)
	}
	return at
}

func (f *ferry) bookingStatus(s sailing) string {
	switch {
	case s.cancelled:
		return pick(f, []int{70, 30}, []string{"Cancelled", "Rebooked"})
	case s.departs.After(f.today):
		return pick(f, []int{88, 6, 6}, []string{"Confirmed", "Waiting list", "Cancelled"})
	}
	return pick(f, []int{90, 4, 6}, []string{"Travelled", "No-show", "Cancelled"})
}

func (f *ferry) lines(passengers int, s sailing) []line {
	var out []line
	put := func(it item, quantity int) {
		out = append(out, line{item: it, quantity: quantity, price: price(it, s)})
	}
	children := 0
	if passengers > 1 && f.Float64() < 0.35 {
		children = 1 + f.IntN(passengers-1)
	}
	if f.Float64() < 0.14 {
		put(fares[2], passengers-children)
	} else {
		put(fares[0], passengers-children)
	}
	if children > 0 {
		put(fares[1], children)
	}
	if f.Float64() < 0.55 {
		put(pick(f, []int{78, 9, 8, 5}, cars), 1)
	}
	for _, it := range more {
		if f.Float64() < 0.155 {
			put(it, 1+f.IntN(min(passengers, 3)))
		}
	}
	if len(out) > 1 && f.Float64() < 0.012 {
		back := out[len(out)-1]
		back.refunded = true
		out = append(out, back)
	}
	return out
}

func (f *ferry) pay(booking, id, fare int, booked time.Time, status string) int {
	methods := []string{"Card", "Transfer", "Cash", "Voucher"}
	due := fare
	if status == "Waiting list" || f.Float64() < 0.03 {
		return id // not paid yet
	}
	if f.Float64() < 0.08 && due > 20_000 { // in two parts
		id++
		part := due / 4
		f.add("payments", id, fmt.Sprintf("PA-%06d", id), booking, "Card", booked, decimal(part, 2))
		due -= part
		booked = booked.Add(48 * time.Hour)
	}
	id++
	f.add(
		"payments", id, fmt.Sprintf("PA-%06d", id), booking, pick(f, []int{74, 12, 9, 5}, methods),
		booked.Add(time.Duration(f.IntN(900))*time.Second), decimal(due, 2),
	)
	if status == "Cancelled" && f.Float64() < 0.8 {
		id++
		f.add(
			"payments", id, fmt.Sprintf("PA-%06d", id), booking, "Card", booked.Add(72*time.Hour), decimal(-due, 2),
		)
	}
	return id
}

var bookingNotes = []string{
	"Wheelchair place by the lift, please.", "Travels with a guide dog.",
	"Trailer, 4.2 m, is over the usual height.",
	"Called twice about the timetable.", "Wants to sit on the port side.", "Invoice to the office in Oxley.",
	"Bringing bicycles; will load them by hand.", "Late arrival agreed with the counter at Tarn Head.",
}

func (f *ferry) makeClaims() {
	categories := []string{
		"Late sailing", "Vehicle damage", "Lost luggage", "Missed connection", "Cabin fault", "Refund",
	}
	closed := []string{"Settled", "Refused", "Withdrawn"}
	open := []string{"Open", "In review", "Waiting for papers"}
	var travelled []int
	for i, b := range f.bookings {
		if f.sailings[b.sailing].departs.Before(f.today) {
			travelled = append(travelled, i)
		}
	}
	for id := 1; id <= f.size.Claims; id++ {
		n := one(f, travelled)
		b := f.bookings[n]
		opened := f.sailings[b.sailing].departs.Add(
			time.Duration(f.ExpFloat64()*9*24*float64(time.Hour)) + 3*time.Hour,
		).Truncate(time.Minute)
		if opened.After(f.today) {
			opened = f.today.Add(-time.Duration(f.IntN(48*60)) * time.Minute)
		}
		claimed := int(900*math.Exp(f.NormFloat64()*1.1)) + 500 // skewed: a few are very large
		claimed = min(claimed*3, 184_000) / 10 * 10
		// Claims are settled in some weeks; a long tail stays open.
		took := time.Duration(f.ExpFloat64()*34*24*float64(time.Hour)) + 26*time.Hour
		isClosed := opened.Add(took).Before(f.today) && f.Float64() < 0.93
		var status, closedAt, paid any
		if isClosed {
			s := pick(f, []int{85, 5, 10}, closed)
			status, closedAt = s, opened.Add(took).Truncate(time.Minute)
			paid = decimal(0, 2)
			if s == "Settled" {
				paid = decimal(claimed*one(f, []int{40, 60, 80, 100, 100, 100})/100, 2)
			}
		} else {
			status = maybe(f, 0.006, pick(f, []int{50, 35, 15}, open))
			if f.Float64() < 0.25 {
				paid = decimal(claimed*one(f, []int{10, 20, 25})/100, 2)
			}
		}
		var handler any
		if isClosed || f.Float64() < 0.7 {
			handler = 5 + 7*f.IntN(11)
		}
		f.add("claims", id, fmt.Sprintf("CL-%05d", 14000+id), n+1, pick(f, []int{
			30, 16, 14, 20, 8, 12,
		}, categories),
			status, opened, closedAt, decimal(claimed, 2), paid, handler, maybe(f, 0.85, one(f, claimNotes)))
	}
}

var claimNotes = []string{
	"Photographs sent by post.", "Bumper scratched on the ramp at Harrow Strand.",
	"Suitcase found at Garrel and sent on.",
	"Missed the last train from Oxley.", "Heater in the cabin did not work.",
	"Second letter; asks for a manager.",
	"Agrees to half the amount.", "Receipt for the taxi enclosed.",
}
