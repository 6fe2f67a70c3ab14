package launch

import (
	"thrush/internal/lang"
	"thrush/internal/lang/golang"
	"thrush/internal/lang/java"
	"thrush/internal/languages"
)

// of tells whether a file is one of a language.
func (c *cached) of(l *lang.Language) bool { return languages.Of(c.Path) == l }

func (c *cached) isGo() bool { return c.of(golang.Language) }

// isJava tells whether a file is woven in a copy of the project.
func (c *cached) isJava() bool { return c.of(java.Language) }
