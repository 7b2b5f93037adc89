package web

import (
	"bytes"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
)

var (
	markdown = goldmark.New(goldmark.WithExtensions(extension.Strikethrough, extension.Table, extension.Linkify))
	// harmless is what may stand in a text: words and how they are set, and links that lead away in the open.
	// Nothing is loaded from elsewhere, and nothing acts.
	harmless = harmlessPolicy()
)

func harmlessPolicy() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements(
		"p", "br", "hr", "h1", "h2", "h3", "h4", "h5", "h6", "ul", "ol", "li", "strong", "em", "del", "code", "pre",
		"blockquote", "table", "thead", "tbody", "tr", "th", "td",
	)
	p.AllowAttrs("href").OnElements("a")
	p.AllowURLSchemes("http", "https", "mailto")
	p.AllowRelativeURLs(true)
	p.RequireNoFollowOnLinks(true)
	p.RequireNoReferrerOnLinks(true)
	p.AddTargetBlankToFullyQualifiedLinks(true)
	return p
}

// safeHTML is a text in Markdown (CommonMark with tables and strikethrough) as HTML in which nothing acts.
// What cannot be read as Markdown stands there as it was written.
func safeHTML(text string) string {
	var out bytes.Buffer
	if err := markdown.Convert([]byte(text), &out); err != nil {
		return harmless.Sanitize(text)
	}
	return harmless.Sanitize(out.String())
}
