package auth

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPasswordsFitOnlyTheirHash(t *testing.T) {
	h := HashPassword("correct horse")
	assert.True(t, strings.HasPrefix(h, "$argon2id$v=19$m=65536,t=3,p=2$"))
	assert.True(t, CheckPassword(h, "correct horse"))
	assert.False(t, CheckPassword(h, "correct horsf"))
	assert.NotEqual(t, h, HashPassword("correct horse"), "each hash has a salt of its own")
	for _, bad := range []string{"", "x", "$argon2id$v=19$m=1,t=1,p=0$YQ$YQ", strings.Replace(h, "m=65536", "m=99999999", 1), strings.Replace(h, "$", "$$", 1)} {
		assert.False(t, CheckPassword(bad, "correct horse"), bad)
		assert.False(t, CheckPassword(bad, ""), bad)
	}
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
