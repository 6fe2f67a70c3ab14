package cli

import (
	"os"
	"path/filepath"
	"strings"

	"thrush/internal/project"
	"thrush/internal/recording"
)

// recordingID is the short name of a kept recording.
func recordingID(path string) string {
	name := strings.TrimSuffix(filepath.Base(path), recording.Extension)
	return name[strings.LastIndexByte(name, '-')+1:]
}

// resolveName finds a recording by the path of its file or the beginning of its
// short name.
func resolveName(p *project.Project, name string) (string, error) {
	if _, err := os.Stat(name); err == nil {
		return name, nil
	}
	kept, err := p.Recordings()
	if err != nil {
		return "", err
	}
	var found []string
	for _, k := range kept {
		if len(name) >= 3 && strings.HasPrefix(recordingID(k), name) {
			found = append(found, k)
		}
	}
	switch len(found) {
	case 1:
		return found[0], nil
	case 0:
		return "", noData("there is no recording %s, neither a file nor a short name; thrush log lists them", name)
	}
	return "", usage("%d recordings begin with %s; give more of the name (thrush log lists them)", len(found), name)
}
