package demo

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/big"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgtype"
)

var countries = []string{"Marrowby", "Vennland", "Brannoc Isles", "Oxley Coast", "Elsewhere"}

var portNames = []struct {
	code, name, country string
	berths              int
}{
	{"ANS", "Port Anselm", "Marrowby", 4}, {"VEN", "Venn Isle", "Vennland", 3},
	{"HAR", "Harrow Strand", "Marrowby", 2}, {"BRA", "St Brannoc", "Brannoc Isles", 2},
	{"TAR", "Tarn Head", "Marrowby", 1}, {"MUL", "Mulberry Quay", "Oxley Coast", 2},
	{"OXL", "Oxley", "Oxley Coast", 3}, {"GAR", "Garrel", "Brannoc Isles", 1},
	{"PEN", "Pennick", "Vennland", 1},
}

// Routes as pairs of ports, with nautical miles, minutes and share of traffic.
var routeList = []struct {
	from, to, miles, minutes, weight int
	seasonal                         bool
}{
	{1, 2, 341, 130, 26, false}, {3, 4, 285, 115, 22, false}, {5, 2, 198, 85, 17, false},
	{6, 7, 122, 55, 13, false}, {4, 7, 402, 160, 10, false}, {1, 8, 517, 215, 6, false},
	{2, 9, 64, 30, 4, false}, {6, 4, 355, 140, 2, true},
}

var vesselNames = []string{
	"Marrow Star", "Lady of Venn", "Harrow Maid", "Grey Petrel", "Anselm Bell", "Oxley Lass",
	"Sound Runner", "Brannoc Light", "Tarn Heron", "Old Constance", "Mulberry Rose",
}

func (f *ferry) makePorts() {
	for i, p := range portNames {
		opened := f.today.AddDate(-20-f.IntN(90), -f.IntN(12), 0)
		f.add("ports", i+1, p.code, p.name, p.country, p.berths, maybe(f, 0.1, opened))
	}
	for i, r := range routeList {
		from, to := portNames[r.from-1], portNames[r.to-1]
		f.add("routes", i+1, from.code+"-"+to.code, from.name+" – "+to.name, r.from, r.to,
			decimal(r.miles, 1), interval(time.Duration(r.minutes)*time.Minute), r.seasonal)
	}
}

func (f *ferry) makeFleet() {
	kinds := []string{"Hull", "Engine", "Fire safety", "Life-saving", "Car deck"}
	inspection := 0
	for i, name := range vesselNames {
		id := i + 1
		expires := f.today.AddDate(0, 0, f.IntN(420)-20)
		inService := i < 9
		f.add("vessels", id, name, vesselPicture(i), f.today.AddDate(-5-f.IntN(35), 0, -f.IntN(300)),
			180+f.IntN(70)*10, 90+f.IntN(60)*10, maybe(f, 0.09, expires), inService)
		for range 18 + f.IntN(10) {
			inspection++
			score := 6000 + f.IntN(4001)
			scored := f.Float64() > 0.06
			var given, passed any
			if scored {
				given, passed = decimal(score, 2), score >= 7000
			}
			f.add("inspections", inspection, fmt.Sprintf("IN-%04d", inspection), id, one(f, kinds),
				f.today.AddDate(0, 0, -f.IntN(1100)), given, passed, maybe(f, 0.6, one(f, inspectionNotes)))
		}
	}
}

var inspectionNotes = []string{
	"Two extinguishers past their date; replaced on the spot.", "Paint flaking below the waterline.",
	"Ramp chain stiff; greased.", "All in order.", "Life-jacket locker 3 will not close.",
	"Oil film in the bilge; source not found.", "Crew drill repeated and passed.",
}

func (f *ferry) makeStaff() {
	roles := []string{"Master", "Deck", "Counter", "Counter", "Counter", "Service desk", "Office"}
	seen := map[string]bool{}
	for id := 1; id <= staffCount; id++ {
		name := f.person()
		for seen[name] {
			name = f.person()
		}
		seen[name] = true
		role := roles[id%len(roles)]
		email := strings.ReplaceAll(strings.ToLower(name), " ", ".") + "@marrowby.example"
		f.add("staff", id, name, role, maybe(f, 0.1, 1+f.IntN(len(portNames))),
			f.today.AddDate(0, 0, -30-f.IntN(8000)), maybe(f, 0.05, email))
	}
}

const staffCount = 84

var (
	givenNames = []string{
		"Ada", "Bram", "Cleo", "Dorrit", "Edda", "Finn", "Greta", "Hollis", "Ines", "Jory", "Kerr", "Lotte",
		"Merrin", "Noor", "Orla", "Piet", "Quill", "Rhona", "Senan", "Tamsin", "Ulla", "Vesper", "Wren", "Yann",
		"Zora", "Zoë", "André", "Søren",
	}
	familyNames = []string{
		"Abbot", "Bellwether", "Carrow", "Dunmore", "Ellery", "Fosk", "Garrick", "Hale", "Inchley", "Jessop",
		"Kestle", "Lorne", "Marlow", "Nettle", "Orchard", "Pascoe", "Quarrier", "Rook", "Sable", "Tregear",
		"Underhill", "Vane", "Winnock", "Yarrow", "Pérot", "Nyström",
	}
)

func (f *ferry) person() string { return one(f, givenNames) + " " + one(f, familyNames) }

// season is how busy a day of the year is: 1 on average, twice that in summer.
func season(t time.Time) float64 {
	return 1 + 0.85*math.Cos(2*math.Pi*(float64(t.YearDay())-208)/365)
}

func (f *ferry) makeSailings() {
	const past, ahead = 760, 45
	weathers := []string{"Calm", "Breeze", "Fresh", "Gale", "Fog"}
	weights := make([]int, len(routeList))
	numbers := make([]int, len(routeList))
	for i, r := range routeList {
		weights[i], numbers[i] = r.weight, i
	}
	perDay := float64(f.size.Sailings) / (past + ahead)
	made := 0.0
	for day := -past; len(f.sailings) < f.size.Sailings; day++ {
		date := f.today.AddDate(0, 0, day)
		made += perDay * (0.75 + season(date)/4)
		for float64(len(f.sailings)) < made && len(f.sailings) < f.size.Sailings {
			route := pick(f, weights, numbers)
			if routeList[route].seasonal && season(date) < 1 {
				route = 0
			}
			departs := date.Add(time.Duration(6*60+5*f.IntN(180)) * time.Minute)
			weather := pick(f, []int{38, 34, 17, 6, 5}, weathers)
			f.addSailing(route, departs, weather, day)
		}
	}
}

func (f *ferry) addSailing(route int, departs time.Time, weather string, day int) {
	id := len(f.sailings) + 1
	s := sailing{route: route, departs: departs}
	s.cancelled = f.Float64() < map[string]float64{"Gale": 0.35, "Fog": 0.12}[weather]+0.008
	status, vessel := "Sailed", 1+(route*3+f.IntN(3))%9
	var departed, arrived, delay, free, passengers, wind, seen any
	switch {
	case day >= 0:
		status = "Planned"
		s.cancelled = false
	case s.cancelled:
		status, seen = "Cancelled", weather
	default:
		// Most leave within minutes of the timetable; a few very late.
		late := time.Duration(f.ExpFloat64()*6-2) * time.Minute
		if f.Float64() < 0.09 {
			late += time.Duration(f.ExpFloat64()*48) * time.Minute
		}
		s.late = late
		left := departs.Add(late)
		crossing := time.Duration(float64(routeList[route].minutes)*(0.96+f.Float64()*0.1)) * time.Minute
		departed, delay, seen = left, interval(late), weather
		arrived = maybe(f, 0.02, left.Add(crossing))
		free = f.IntN(160)
		passengers = int(60 + season(departs)*float64(80+f.IntN(160)))
		wind = maybe(f, 0.03, float32(math.Round(f.ExpFloat64()*55))/10)
	}
	f.sailings = append(f.sailings, s)
	f.add("sailings", id, fmt.Sprintf("SA-%05d", id), route+1, vessel, maybe(f, 0.03, 7*(1+f.IntN(12))),
		departs, departed, arrived, delay, status, seen, wind, free, passengers)
}

// decimal is a whole number of the smallest units as a numeric.
func decimal(scaled, scale int) pgtype.Numeric {
	return pgtype.Numeric{Int: big.NewInt(int64(scaled)), Exp: int32(-scale), Valid: true}
}

func interval(d time.Duration) pgtype.Interval {
	return pgtype.Interval{Microseconds: d.Microseconds(), Valid: true}
}

// vesselPicture draws a small side view: hull, deckhouse, funnel, sea.
func vesselPicture(i int) []byte {
	img := image.NewRGBA(image.Rect(0, 0, 96, 48))
	fill := func(x0, y0, x1, y1 int, c color.RGBA) {
		for y := y0; y < y1; y++ {
			for x := x0; x < x1; x++ {
				img.SetRGBA(x, y, c)
			}
		}
	}
	hulls := []color.RGBA{{122, 46, 77, 255}, {31, 92, 77, 255}, {61, 86, 112, 255}, {179, 118, 26, 255}}
	fill(0, 0, 96, 48, color.RGBA{238, 242, 240, 255})
	fill(0, 38, 96, 48, color.RGBA{150, 178, 186, 255})
	for y := 26; y < 40; y++ { // the bow rakes
		fill(10+(y-26)/3, y, 88-(y-26)/2, y+1, hulls[i%len(hulls)])
	}
	length := 34 + i%4*6
	fill(20, 18, 20+length, 26, color.RGBA{255, 253, 248, 255})
	for x := 23; x < 18+length; x += 5 {
		fill(x, 20, x+3, 23, color.RGBA{61, 86, 112, 255})
	}
	fill(26+i%3*8, 9, 34+i%3*8, 18, hulls[(i+1)%len(hulls)])
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		panic(err) // a buffer takes whatever is written
	}
	return b.Bytes()
}
