package launch

import (
	"path/filepath"

	"thrush/internal/lang/java"
	"thrush/internal/lang/script"
	"thrush/internal/workcopy"
)

// mirrored brings the copy of the project up to date, for a command that is still to run.
// Sources in it that are read by nobody whom Thrush stands in front of, bundlers that are
// programs of their own say, have their woven text.
func (p *Prepared) mirrored() (*workcopy.Copy, error) {
	dir, err := p.Project.Folder("copy")
	if err != nil {
		return nil, err
	}
	c := &workcopy.Copy{From: p.Project.Root, In: dir, Name: copyName(p.Project.Root), Text: map[string]string{}, Marks: append([][]byte{[]byte(java.Mark)}, script.Marks...)}
	if p.Options.Gather {
		return c, nil
	}
	for _, f := range p.files {
		if f.Kind == woven && (script.IsSource(f.Path) || f.isJava()) {
			c.Text[f.Path] = p.wovenPath(f)
		}
	}
	if err := c.Open(); err != nil {
		return nil, err
	}
	if err := c.Sync(); err != nil {
		return nil, err
	}
	if p.builtByGradle() {
		// It runs no tests again whose results are there.
		return c, c.Drop("**/build/test-results")
	}
	return c, nil
}

// copyName is how the folder of the copy is called: as the project's, which builds may show.
func copyName(root string) string {
	if name := filepath.Base(root); filepath.IsLocal(name) {
		return name
	}
	return "project" // at the top of the file system
}

// Close puts the copy away in which a command ran, if there is one.
func (p *Prepared) Close() error {
	if p.copy == nil {
		return nil
	}
	return p.copy.Close()
}

// CopyName is the path of the copy from the project's root.
func (p *Prepared) CopyName() string {
	if rel, err := filepath.Rel(p.Project.Root, p.copy.To()); err == nil {
		return filepath.ToSlash(rel)
	}
	return p.copy.To()
}

// RunsInCopy tells whether the command runs in a copy.
func (p *Prepared) RunsInCopy() bool { return p.copy != nil }

// Dir gives the folder in which a command is to run that was given in another: the same one,
// or the same in the copy.
func (p *Prepared) Dir(given string) string {
	rel, err := filepath.Rel(p.Project.Root, given)
	if p.copy == nil || err != nil {
		return given
	}
	return filepath.Join(p.copy.To(), rel)
}

// Back brings files that match globs from the copy to the project, and gives their paths,
// and those of files with probes in them, which are kept.
func (p *Prepared) Back(globs []string) (brought, kept []string, err error) {
	if p.copy == nil {
		return nil, nil, nil
	}
	return p.copy.Back(globs)
}
