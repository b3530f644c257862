package lifecycle

import "fmt"

// identityGate: no other part is equal in the parameters that tell parts of the drawer apart.
var identityGate = gate{about: "no other part is equal in the identifying parameters", of: ofParts, with: plain(func(f Facts) Answer {
	if len(f.Twins) == 0 {
		return answer("", "", f.Identity, f.Twins)
	}
	return answer(fmt.Sprintf("%s is equal in %s", some(f.Twins), some(f.Identity)), "merge the two, or give what tells them apart", f.Identity, f.Twins)
})}
