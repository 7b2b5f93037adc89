package program

import (
	"encoding/json"
	"fmt"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

// A plain reading of formulas: one record at a time, numbers as fractions. A value is
// a *big.Rat, a string, a bool, or nil for a blank.

// syntax is a formula as it is drawn: a literal, a field, an operator or a function.
type syntax struct {
	kind syntaxKind
	text string
	args []*syntax
}

type syntaxKind int

const (
	numberLiteral syntaxKind = iota
	textLiteral
	fieldName
	operator
	functionCall
)

// String writes everything in brackets.
func (s *syntax) String() string {
	switch s.kind {
	case textLiteral:
		return `"` + strings.ReplaceAll(s.text, `"`, `""`) + `"`
	case fieldName:
		return "'" + strings.ReplaceAll(s.text, "'", "''") + "'"
	case functionCall:
		var args []string
		for _, a := range s.args {
			args = append(args, a.String())
		}
		return s.text + "(" + strings.Join(args, ",") + ")"
	case operator:
		switch s.text {
		case "neg":
			return "(-" + s.args[0].String() + ")"
		case "%":
			return "(" + s.args[0].String() + "%)"
		}
		return "(" + s.args[0].String() + s.text + s.args[1].String() + ")"
	}
	return s.text
}

func drawTree(t *rapid.T, kind string, depth int) *syntax {
	sub := func(kind string) *syntax { return drawTree(t, kind, depth-1) }
	sign := func(text string, args ...*syntax) *syntax { return &syntax{kind: operator, text: text, args: args} }
	call := func(name string, args ...*syntax) *syntax { return &syntax{kind: functionCall, text: name, args: args} }
	field := func(names ...string) *syntax {
		return &syntax{kind: fieldName, text: rapid.SampledFrom(names).Draw(t, "field")}
	}
	one := func(makers ...func() *syntax) *syntax { return rapid.SampledFrom(makers).Draw(t, kind)() }
	switch {
	case kind == "number" && depth == 0:
		return one(func() *syntax { return field("cars", "it's paid", "share", "part") }, func() *syntax {
			return &syntax{
				kind: numberLiteral,
				text: rapid.SampledFrom([]string{"0", "1", "7", "2.5", "0.01", "100"}).Draw(t, "literal"),
			}
		})
	case kind == "number":
		return one(
			func() *syntax { return sub("number") },
			func() *syntax {
				return sign(rapid.SampledFrom([]string{"+", "-", "*"}).Draw(t, "sign"), sub("number"), sub("number"))
			},
			func() *syntax { return sign("neg", sub("number")) },
			func() *syntax { return sign("%", sub("number")) },
			func() *syntax { return call("ROUND", sub("number"), &syntax{kind: numberLiteral, text: "1"}) },
			func() *syntax {
				return call(
					rapid.SampledFrom([]string{"ABS", "INT", "ROUNDUP", "ROUNDDOWN"}).Draw(t, "name"), sub("number"),
				)
			},
			func() *syntax { return call("MIN", sub("number"), sub("number")) },
			func() *syntax { return call("MAX", sub("number"), sub("number")) },
			func() *syntax { return call("MOD", sub("number"), sub("number")) },
			func() *syntax { return call("CEILING", sub("number"), &syntax{kind: numberLiteral, text: "2.5"}) },
			func() *syntax { return call("IF", sub("truth"), sub("number"), sub("number")) },
			func() *syntax { return call("IFS", sub("truth"), sub("number"), sub("truth"), sub("number")) },
			func() *syntax { return call("COALESCE", sub("number"), sub("number")) },
			func() *syntax { return call("LEN", sub("text")) },
		)
	case kind == "text" && depth == 0:
		return one(func() *syntax { return field("port") }, func() *syntax {
			return &syntax{
				kind: textLiteral, text: rapid.SampledFrom([]string{"Quay", `"`, "é'", "a b"}).Draw(t, "literal"),
			}
		})
	case kind == "text":
		return one(
			func() *syntax { return sign("&", sub("text"), sub("text")) },
			func() *syntax { return call("UPPER", sub("text")) },
			func() *syntax { return call("LEFT", sub("text"), &syntax{kind: numberLiteral, text: "2"}) },
			func() *syntax { return call("IF", sub("truth"), sub("text"), sub("text")) },
			func() *syntax { return call("SUBSTITUTE", sub("text"), sub("text"), sub("text")) },
		)
	case depth == 0:
		return one(
			func() *syntax { return field("late") },
			func() *syntax { return call("ISBLANK", field("cars", "port", "late")) },
		)
	}
	return one(
		func() *syntax {
			return sign(
				rapid.SampledFrom([]string{"<", "<=", ">", ">=", "=", "<>"}).Draw(t, "sign"), sub("number"),
				sub("number"),
			)
		},
		func() *syntax { return sign("=", sub("text"), sub("text")) },
		func() *syntax { return call("AND", sub("truth"), sub("truth")) },
		func() *syntax { return call("OR", sub("truth"), sub("truth")) },
		func() *syntax { return call("NOT", sub("truth")) },
		func() *syntax { return call("CONTAINS", sub("text"), sub("text")) },
	)
}

// read works an expression out for one record. Blanks are nil; failed says that the
// record failed on the way.
func read(t *syntax, record map[string]any, failed *bool) any {
	switch t.kind {
	case numberLiteral:
		r, _ := new(big.Rat).SetString(t.text)
		return r
	case textLiteral:
		return t.text
	case fieldName:
		return record[t.text]
	}
	arg := func(i int) any { return read(t.args[i], record, failed) }
	text := func(i int) string { s, _ := arg(i).(string); return s }
	if t.kind == operator && t.text == "&" {
		return filledText(text(0) + text(1))
	}
	switch t.text { // those that do not ask for all arguments, or take blanks
	case "IF":
		if arg(0) == true {
			return arg(1)
		}
		return arg(2)
	case "IFS":
		for i := 0; i < len(t.args); i += 2 {
			if arg(i) == true {
				return arg(i + 1)
			}
		}
		return nil
	case "COALESCE":
		any := false
		for _, a := range t.args {
			broke := false
			if v := read(a, record, &broke); v != nil && !broke {
				return v
			}
			any = any || broke
		}
		*failed = *failed || any
		return nil
	case "ISBLANK":
		broke := false
		return read(t.args[0], record, &broke) == nil || broke
	case "AND":
		a, b := arg(0), arg(1)
		return a == true && b == true
	case "OR":
		a, b := arg(0), arg(1)
		return a == true || b == true
	case "NOT":
		return arg(0) != true
	case "MIN", "MAX":
		a, b := arg(0), arg(1)
		if a == nil || b == nil {
			if a == nil {
				return b
			}
			return a
		}
		if (a.(*big.Rat).Cmp(b.(*big.Rat)) < 0) == (t.text == "MIN") {
			return a
		}
		return b
	case "SUBSTITUTE":
		if s, old := text(0), text(1); old != "" {
			return filledText(strings.ReplaceAll(s, old, text(2)))
		}
		return filledText(text(0))
	}
	args := make([]any, len(t.args))
	blank := false
	for i := range args {
		args[i] = arg(i)
		blank = blank || args[i] == nil
	}
	if blank {
		return nil
	}
	if s, ok := args[0].(string); ok {
		switch t.text {
		case "LEN":
			return big.NewRat(int64(len([]rune(s))), 1)
		case "UPPER":
			return strings.ToUpper(s)
		case "LEFT":
			return string([]rune(s)[:min(2, len([]rune(s)))])
		case "CONTAINS":
			return strings.Contains(table.Fold(s), table.Fold(args[1].(string)))
		}
		return table.Fold(s) == table.Fold(args[1].(string))
	}
	x := args[0].(*big.Rat)
	floor := func(r *big.Rat) *big.Rat { return new(big.Rat).SetInt(new(big.Int).Div(r.Num(), r.Denom())) }
	half := func(r *big.Rat) *big.Rat { // away from zero, to whole numbers
		out := floor(new(big.Rat).Add(new(big.Rat).Abs(r), big.NewRat(1, 2)))
		if r.Sign() < 0 {
			out.Neg(out)
		}
		return out
	}
	switch t.text {
	case "neg":
		return new(big.Rat).Neg(x)
	case "%":
		return new(big.Rat).Quo(x, big.NewRat(100, 1))
	case "ABS":
		return new(big.Rat).Abs(x)
	case "INT":
		return floor(x)
	case "ROUND":
		return new(big.Rat).Quo(half(new(big.Rat).Mul(x, big.NewRat(10, 1))), big.NewRat(10, 1))
	case "ROUNDDOWN", "ROUNDUP":
		out := floor(new(big.Rat).Abs(x))
		if t.text == "ROUNDUP" && !x.IsInt() {
			out.Add(out, big.NewRat(1, 1))
		}
		if x.Sign() < 0 {
			out.Neg(out)
		}
		return out
	}
	y := args[1].(*big.Rat)
	switch t.text {
	case "+":
		return new(big.Rat).Add(x, y)
	case "-":
		return new(big.Rat).Sub(x, y)
	case "*":
		return new(big.Rat).Mul(x, y)
	case "MOD":
		if y.Sign() == 0 {
			*failed = true
			return nil
		}
		return new(big.Rat).Sub(x, new(big.Rat).Mul(y, floor(new(big.Rat).Quo(x, y))))
	case "CEILING":
		return new(big.Rat).Mul(y, new(big.Rat).Neg(floor(new(big.Rat).Neg(new(big.Rat).Quo(x, y)))))
	}
	c := x.Cmp(y)
	return map[string]bool{"<": c < 0, "<=": c <= 0, ">": c > 0, ">=": c >= 0, "=": c == 0, "<>": c != 0}[t.text]
}

func filledText(s string) any {
	if s == "" {
		return nil
	}
	return s
}

// written is a value as a formula's result is written for programs.
func writtenPlain(v any, scale int) string {
	switch v := v.(type) {
	case *big.Rat:
		return v.FloatString(scale)
	case string:
		return v
	case bool:
		return fmt.Sprint(v)
	}
	return ""
}

// Whatever a formula says, printed in few brackets it means the same, and its program,
// compiled from a tree that was written down and read back, gives what reading the tree record by record gives, over several blocks.
func TestProgramsGiveWhatReadingTheTreeGives(t *testing.T) {
	const rows = blockRows + 77
	kinds := []catalog.Field{
		{Key: "cars", Type: catalog.Whole}, {Key: "it's paid", Type: catalog.Money, Scale: 2},
		{Key: "share", Type: catalog.Decimal, Scale: 1},
		{Key: "part", Type: catalog.Percent, Scale: 1},
		{Key: "port", Type: catalog.Text}, {Key: "late", Type: catalog.YesNo},
	}
	texts := []string{"", "Quay", "quay é", "Mulberry Quay", `a"b`}
	records, columns := make([]map[string]any, rows), map[string]table.Column{}
	dict := table.NewDictBuilder()
	for i, f := range kinds {
		ints, codes := make([]int64, rows), make([]uint32, rows)
		for row := range rows {
			if records[row] == nil {
				records[row] = map[string]any{}
			}
			n := int64(row*(2*i+7)%31) - 12
			if ints[row] = n; row%11 == i {
				ints[row] = table.Blank
				continue
			}
			switch f.Type {
			case catalog.Text:
				text := texts[row*7%len(texts)]
				codes[row], records[row][f.Key] = dict.CodeOf(text), filledText(text)
			case catalog.YesNo:
				ints[row] = n & 1
				records[row][f.Key] = n&1 == 1
			default:
				records[row][f.Key] = big.NewRat(n, table.Pow10(f.Scale))
				if f.Type == catalog.Percent {
					records[row][f.Key] = big.NewRat(n, 100*table.Pow10(f.Scale))
				}
			}
		}
		columns[f.Key] = table.NewNumbers(ints)
		if f.Type == catalog.Text {
			columns[f.Key] = dict.Build(codes)
		}
	}
	find := func(name string) (formula.Found, error) {
		for _, f := range kinds {
			if f.Key == name {
				return formula.Found{Ref: catalog.Ref{Path: name, Label: name, Field: f}}, nil
			}
		}
		return formula.Found{}, fmt.Errorf("there is no field %q", name)
	}
	tried := 0
	rapid.Check(t, func(rt *rapid.T) {
		drawn := drawTree(rt, rapid.SampledFrom([]string{"number", "text", "truth"}).Draw(rt, "kind"), 4)
		source := drawn.String()
		tidy, err := formula.Tidy(source)
		require.NoError(rt, err, source)
		f, err := formula.Check(tidy, find)
		if err != nil {
			require.Contains(rt, err.Error(), "decimals", source) // more than are kept
			return
		}
		p := throughJSON(rt, f.Calculation)
		var inputs []table.Column
		for _, in := range f.Calculation.Inputs {
			inputs = append(inputs, columns[in.Path])
		}
		out, failures := p.Make(rows), NewFailures(rows)
		require.NoError(t, p.Machine(inputs, setting, failures, nil).Run(out, 0, rows))
		if failures.Rows[formula.TooLarge][0] != 0 {
			return // fractions have no bound
		}
		tried++
		w, field := format.NewWriter(format.Plain, setting), p.Type.Field("", "")
		for row, record := range records {
			failed, marked := false, false
			want := read(drawn, record, &failed)
			if failed {
				want = nil
			}
			for _, bits := range failures.Rows {
				marked = marked || bits[row/64]>>(row%64)&1 == 1
			}
			got := ""
			if out.Texts != nil {
				got = out.Texts[row]
			} else {
				got = w.Number(out.Ints[row], field)
			}
			if r, ok := want.(*big.Rat); ok && p.Type.Type == catalog.Percent {
				want = new(big.Rat).Mul(r, big.NewRat(100, 1))
			}
			require.Equal(rt, writtenPlain(want, p.Type.Scale), got, "%s for %v", source, record)
			require.Equal(rt, failed, marked, "%s for %v", source, record)
		}
	})
	require.Positive(t, tried)
}

// throughJSON compiles a calculation as a reader gets it that is handed a text.
func throughJSON(t require.TestingT, c *formula.Calculation) *Program {
	text, err := json.Marshal(c)
	require.NoError(t, err)
	read := &formula.Calculation{}
	require.NoError(t, json.Unmarshal(text, read))
	require.Equal(t, c, read)
	p, err := Compile(read)
	require.NoError(t, err)
	return p
}

// BenchmarkFiveOperations runs a formula of five operations over a million records,
// on one core.
func BenchmarkFiveOperations(b *testing.B) {
	const rows = 1_000_000
	paid, cars := make([]int64, rows), make([]int64, rows)
	for i := range rows {
		paid[i], cars[i] = int64(i*7919%100_000), int64(i%9)
		if i%50 == 0 {
			cars[i] = table.Blank
		}
	}
	f, err := formula.Check("('Fare paid' - Cars * 2.50) * (1 - 12.5%) + 'Fare paid'", lookup)
	if err != nil {
		b.Fatal(err)
	}
	p, err := Compile(f.Calculation)
	if err != nil {
		b.Fatal(err)
	}
	out, failures := p.Make(rows), NewFailures(rows)
	inputs := []table.Column{table.NewNumbers(paid), table.NewNumbers(cars)}
	for b.Loop() {
		if err := p.Machine(inputs, setting, failures, nil).Run(out, 0, rows); err != nil {
			b.Fatal(err)
		}
	}
}
