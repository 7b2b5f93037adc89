package web

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"

	"gavrik/internal/core/view"
)

// described registers every operation without a server behind it.
func described() *huma.OpenAPI {
	api := humachi.New(chi.NewMux(), config())
	register(api, &entrance{})
	return api.OpenAPI()
}

// listChoices puts the words of the core's tables where a schema names a table: the tags of
// view documents do, so that a total or an operator is written down once.
func listChoices(description *huma.OpenAPI) {
	for _, schema := range description.Components.Schemas.Map() {
		for _, property := range schema.Properties {
			if len(property.Enum) != 1 {
				continue
			}
			table, ok := property.Enum[0].(string)
			if !ok || !strings.HasPrefix(table, "@") {
				continue
			}
			property.Enum = nil
			for _, choice := range view.Choices(table) {
				property.Enum = append(property.Enum, choice)
			}
			property.PrecomputeMessages()
		}
	}
}

// OpenAPI is the interface's description, as indented JSON.
func OpenAPI() ([]byte, error) { return indented(described()) }

// ViewSchema is the JSON Schema of a view document: the same types as in the
// interface, standing alone.
func ViewSchema() ([]byte, error) {
	schemas := described().Components.Schemas.Map()
	defs := map[string]*huma.Schema{}
	for wanted := []string{"Document"}; len(wanted) > 0; wanted = wanted[1:] {
		name := wanted[0]
		if defs[name] != nil {
			continue
		}
		if defs[name] = schemas[name]; defs[name] == nil {
			return nil, fmt.Errorf("web: the interface has no schema %s", name)
		}
		text, err := json.Marshal(defs[name])
		if err != nil {
			return nil, fmt.Errorf("web: %w", err)
		}
		for _, ref := range schemaRef.FindAllSubmatch(text, -1) {
			wanted = append(wanted, string(ref[1]))
		}
	}
	text, err := indented(map[string]any{
		"$schema": "https://json-schema.org/draft/2020-12/schema",
		"title":   "Gavrik view document, version 1",
		"$ref":    "#/$defs/Document",
		"$defs":   defs,
	})
	return []byte(strings.ReplaceAll(string(text), "#/components/schemas/", "#/$defs/")), err
}

// Operators is a TypeScript module that says what each operator compares with.
func Operators() []byte {
	var b strings.Builder
	b.WriteString("// Written from the table of operators in the core by `make openapi`.\n" +
		"import type { Op, OpChoice } from './client'\n\n/** What each operator compares with. */\n" +
		"export const operandOf: Readonly<Record<Op, OpChoice['operand']>> = {\n")
	for _, o := range view.Operators() {
		fmt.Fprintf(&b, "  %s: '%s',\n", o.Op, o.Operand)
	}
	b.WriteString("}\n")
	return []byte(b.String())
}

// schemaRef finds the schemas that another one refers to.
var schemaRef = regexp.MustCompile(`#/components/schemas/(\w+)`)

func indented(v any) ([]byte, error) {
	text, err := json.MarshalIndent(v, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("web: %w", err)
	}
	return append(text, '\n'), nil
}
