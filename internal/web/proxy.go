package web

import (
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
)

// Proxies are the addresses of proxies before the server, whose word on where a request
// comes from is taken.
type Proxies []netip.Prefix

// ParseProxies reads addresses and networks, as "10.0.0.7" and "10.1.0.0/16".
func ParseProxies(list []string) (Proxies, error) {
	var out Proxies
	for _, text := range list {
		text = strings.TrimSpace(text)
		if text == "" {
			continue
		}
		prefix, err := netip.ParsePrefix(text)
		if err != nil {
			var one netip.Addr
			if one, err = netip.ParseAddr(text); err != nil {
				return nil, fmt.Errorf(
					"%q is neither an address nor a network of a proxy; write it as 10.0.0.7 or 10.1.0.0/16", text,
				)
			}
			prefix = netip.PrefixFrom(one, one.BitLen())
		}
		out = append(out, prefix.Masked())
	}
	return out, nil
}

func (p Proxies) trusts(host string) bool {
	at, err := netip.ParseAddr(host)
	if err != nil {
		return false
	}
	for _, prefix := range p {
		if prefix.Contains(at.Unmap()) {
			return true
		}
	}
	return false
}

// clientAddress makes the address of a request the person's. Of the addresses that
// proxies have written down, the last that is not a proxy's own counts: what stands
// before it anybody may have made up.
func (s *server) clientAddress(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if s.Proxies.trusts(hostOf(r.RemoteAddr)) {
			hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
			for i := len(hops) - 1; i >= 0; i-- {
				hop, err := netip.ParseAddr(hostOf(strings.TrimSpace(hops[i])))
				if err != nil {
					break
				}
				r.RemoteAddr = net.JoinHostPort(hop.String(), "0")
				if !s.Proxies.trusts(hop.String()) {
					break
				}
			}
		}
		next.ServeHTTP(w, r)
	})
}

// hostOf is an address without its port.
func hostOf(address string) string {
	if host, _, err := net.SplitHostPort(address); err == nil {
		return host
	}
	return address
}
