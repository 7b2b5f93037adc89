package web

import (
	"github.com/danielgtaylor/huma/v2"
	lru "github.com/hashicorp/golang-lru/v2"

	"gavrik/internal/app"
	"gavrik/internal/deliver"
	"gavrik/internal/people"
)

// service is what the operations of every resource have in common: the application, and how a
// request's scope, its problems and the audit trail are come by.
type service struct{ *app.App }

// questions answers view documents: runs, lines, values, explanations, formulas in the making.
type questions struct{ service }

// library keeps views, their versions, drafts and shares, and hands out saved results.
type library struct{ service }

// rules keeps what people agree on: definitions, groups, who may see what; and the people.
type rules struct {
	service
	desk *people.Desk
}

// entrance lets people and their programs in.
type entrance struct {
	service
	deliver *deliver.Service
	desk    *people.Desk
	// provider, if set, signs people in beside passwords.
	provider *people.Provider
	// secureCookies keeps cookies to HTTPS.
	secureCookies bool
	// remembered are sessions known a moment ago, for while the database is silent.
	remembered *lru.Cache[string, remembered]
}

// register adds every operation. Resources without an application behind them can be
// registered to read the description, not to serve.
func register(api huma.API, at *entrance) {
	q, l, r, i, c := &questions{at.service}, &library{at.service}, &rules{at.service, at.desk}, &intake{at.service},
		&recurring{at.service}
	d := &deliveries{*c, at.deliver}
	api.UseMiddleware(at.signedIn(api), bodies(api), asksFrozen(api))
	for _, add := range []func(huma.API){
		at.registerSession, at.registerSignIns, at.registerSecond, at.registerTokens,
		q.registerCatalog, q.registerRun, q.registerArrivals, q.registerLines, q.registerFormula, q.registerLinkedValues, q.registerDrillThrough,
		q.registerChanges, q.registerHolding, q.registerStaying, q.registerOverview, q.registerBoards,
		l.registerViews, l.registerDrafts, l.registerVersions, l.registerSharing, l.registerDesk, l.registerFind,
		l.registerKept, l.registerExports, l.registerBoardPaper, l.registerResult, l.registerViewFiles,
		r.registerDefinitions, r.registerPeople, r.registerGroups, r.registerNewFields, r.registerAudit, r.registerLetterhead,
		r.registerDescriptions, r.registerFacts, i.registerUploads, i.registerBroughtIn,
		c.registerRecurring, c.registerRounds, c.registerCalendar, c.registerKeeping, d.registerDeliveries,
	} {
		add(api)
	}
	listChoices(api.OpenAPI())
}
