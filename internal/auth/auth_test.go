package auth

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPasswordsFitOnlyTheirHash(t *testing.T) {
	h := Usual.Hash("correct horse")
	assert.True(t, strings.HasPrefix(h, "$argon2id$v=19$m=65536,t=3,p=2$"))
	assert.True(t, Usual.Check(h, "correct horse"))
	assert.False(t, Usual.Check(h, "correct horsf"))
	assert.NotEqual(t, h, Usual.Hash("correct horse"), "each hash has a salt of its own")
	for _, bad := range []string{"", "x", "$argon2id$v=19$m=1,t=1,p=0$YQ$YQ", strings.Replace(h, "m=65536", "m=99999999", 1), strings.Replace(h, "t=3", "t=0", 1), strings.Replace(h, "t=3", "t=99", 1),
		strings.Replace(h, "p=2", "p=0", 1), strings.Replace(h, "$", "$$", 1)} {
		assert.False(t, Usual.Check(bad, "correct horse"), bad)
		assert.False(t, Usual.Check(bad, ""), bad)
	}
}

// What a hash cost is written in it: passwords that were set at another cost go on to fit.
func TestPasswordsOfAnotherCostGoOnToFit(t *testing.T) {
	for _, cost := range []Cost{{1, 8, 1}, {2, 64, 2}, {1, 32, 4}} {
		h := cost.Hash("correct horse")
		assert.True(t, Usual.Check(h, "correct horse"), h)
		assert.False(t, Usual.Check(h, "correct horsf"), h)
		assert.True(t, cost.Check(Usual.Hash("tide and time"), "tide and time"))
		assert.False(t, cost.Check("", ""), "there is no such account")
	}
}

func TestEvenTheLeastCostIsWhatIsRecommendedAtLeast(t *testing.T) {
	for name, begins := range map[string]string{"usual": "$argon2id$v=19$m=65536,t=3,p=2$", "least": "$argon2id$v=19$m=19456,t=2,p=1$"} {
		c, err := CostNamed(name)
		assert.NoError(t, err)
		h := c.Hash("correct horse")
		assert.True(t, strings.HasPrefix(h, begins), h)
		assert.True(t, Usual.Check(h, "correct horse") && Least.Check(h, "correct horse") && !Least.Check(h, "correct horsf"))
	}
	_, err := CostNamed("cheap")
	assert.EqualError(t, err, `"cheap": use usual or least`)
}

func TestPasswordStrength(t *testing.T) {
	assert.NoError(t, CheckStrength("tide-and-time", "maren"))
	for _, weak := range []string{"", "short", "my-name-is-MAREN", strings.Repeat("x", 201)} {
		assert.Error(t, CheckStrength(weak, "maren"), weak)
	}
}

func TestSecretsAreLongAndDifferent(t *testing.T) {
	a, b := NewSecret(), NewSecret()
	assert.NotEqual(t, a, b)
	assert.GreaterOrEqual(t, len(a), 26)
	assert.NotEqual(t, SecretHash(a), SecretHash(b))
}
