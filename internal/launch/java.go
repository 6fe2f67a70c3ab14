package launch

import (
	"cmp"
	"path"
	"path/filepath"
	"regexp"
	"strings"

	"thrush/internal/lang/java"
)

// Place says where a command runs.
type Place uint8

// The places.
const (
	Anywhere  Place = iota // in a copy of the project if it builds Java
	InCopy                 // in a copy in any case
	InProject              // in the project in any case
)

// InNativeImage is why files are unmeasured that went into a native image.
const InNativeImage = java.Unwatched

// javaTool is a program that compiles or runs Java, wherever in a command it stands.
var javaTool = regexp.MustCompile(`(^|[\s/;&|('"])(mvnw?|mvnd|gradlew?|ant|javac|java|jshell|jbang|sbt|mill)(\.cmd|\.bat)?($|[\s;&|)'"])`)

// javaTools are the programs for Java that the command names, without the w of a wrapper.
func (p *Prepared) javaTools() map[string]bool {
	tools := map[string]bool{}
	for _, m := range javaTool.FindAllStringSubmatch(strings.Join(p.Options.Command, "  "), -1) {
		tools[strings.TrimSuffix(m[2], "w")] = true
	}
	return tools
}

// builtByGradle tells whether the command is likely to call Gradle.
func (p *Prepared) builtByGradle() bool {
	scripts, _ := filepath.Glob(filepath.Join(p.Project.Root, "*.gradle*"))
	return p.javaTools()["gradle"] || len(scripts) > 0
}

// placed decides where the command runs. Without a copy nothing of Java is woven.
func (p *Prepared) placed() {
	var javas []*cached
	others := len(p.native.files)
	for _, c := range p.files {
		switch {
		case c.Kind == woven && c.isJava():
			javas = append(javas, c)
		case c.Kind == woven:
			others++
		}
	}
	builds := len(javas) > 0 && (others == 0 || len(p.javaTools()) > 0)
	p.inCopy = p.Options.Place == InCopy || p.Options.Place == Anywhere && builds
	if p.inCopy {
		return
	}
	for _, c := range javas {
		c.Why = cmp.Or(c.Why, "Java is woven in a copy of the project; have the command run there: thrush record --in-copy")
	}
}

// WhyNoJava gives what is likely to have kept all classes of the project from being loaded,
// if the command ran where they are woven and none of them counted. Without counts, nothing did.
func (p *Prepared) WhyNoJava(counts *Counts) (causes []string) {
	own := false
	for _, c := range p.files {
		if c.Kind != woven || !c.isJava() {
			continue
		}
		own = true
		if counts != nil && counts.Of(c.Unit, c.Counters) != nil {
			return nil
		}
	}
	if !own || !p.inCopy {
		return nil
	}
	tools := p.javaTools()
	if tools["gradle"] {
		causes = append(causes, "Gradle took the results of the tests from its cache: gradle test --rerun-tasks")
	}
	if tools["mvn"] || tools["mvnd"] {
		causes = append(causes,
			"Maven found no tests (a test plug-in older than the test framework passes over them without a word: its line \"Tests run\" says how many there were), or they were skipped",
			"the tests of one module ran against jars of the others from ~/.m2: build these in the same command (-am, or from the top)")
	}
	if tools["java"] && !tools["javac"] {
		causes = append(causes, "the classes that ran were compiled before: have the same command compile them (javac, then java)")
	}
	for _, w := range p.Options.Command {
		if path.IsAbs(w) && strings.HasPrefix(w, p.Project.Root+"/") || strings.Contains(w, p.Project.Root+"/") {
			causes = append(causes, "the command names the project by its full path, so it leaves the copy: use paths from the project's root")
			break
		}
	}
	if len(causes) == 0 {
		causes = append(causes, "it built or ran no Java of this project, or classes that were compiled before, outside of the copy in which it ran")
	}
	return causes
}
