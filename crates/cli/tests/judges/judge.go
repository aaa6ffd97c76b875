// Prints which file of a folder names what another declares outside of functions: `from,to`, by the language's own type
// checker. Files that are left out on this system are not judged; those that are come first, as `,path`.
//
//	go run judge.go FOLDER
package main

import (
	"bufio"
	"fmt"
	"go/ast"
	"go/build"
	"go/parser"
	"go/token"
	"go/types"
	"os"
	"path/filepath"
	"sort"
	"strings"
)

type unit struct {
	files []*ast.File
	names []string
}

type judge struct {
	root    string
	fset    *token.FileSet
	homes   map[string]string // import path of a module to its folder
	units   map[string][]unit // folder to packages: the one that is imported first
	checked map[string]*types.Package
	ties    map[string]bool
}

func main() {
	root, err := filepath.EvalSymlinks(os.Args[1])
	if err != nil {
		panic(err)
	}
	j := &judge{root, token.NewFileSet(), map[string]string{}, map[string][]unit{}, map[string]*types.Package{}, map[string]bool{}}
	out := bufio.NewWriter(os.Stdout)
	defer out.Flush()
	filepath.Walk(root, func(path string, info os.FileInfo, err error) error {
		if err != nil {
			return nil
		}
		if info.IsDir() {
			if name := info.Name(); path != root && (strings.HasPrefix(name, ".") || name == "node_modules") {
				return filepath.SkipDir
			}
			j.read(path, out)
		} else if info.Name() == "go.mod" {
			text, _ := os.ReadFile(path)
			for _, line := range strings.Split(string(text), "\n") {
				if fields := strings.Fields(line); len(fields) > 1 && fields[0] == "module" {
					j.homes[strings.Trim(fields[1], "\"")] = filepath.Dir(path)
				}
			}
		}
		return nil
	})
	folders := []string{}
	for folder := range j.units {
		folders = append(folders, folder)
	}
	sort.Strings(folders)
	for _, folder := range folders {
		j.check(folder, true)
	}
	lines := []string{}
	for tie := range j.ties {
		lines = append(lines, tie)
	}
	sort.Strings(lines)
	for _, line := range lines {
		fmt.Fprintln(out, line)
	}
}

// read parses the files of one folder that this system builds, package by package.
func (j *judge) read(folder string, out *bufio.Writer) {
	entries, _ := os.ReadDir(folder)
	context := build.Default
	context.CgoEnabled = true
	byName := map[string]*unit{}
	order := []string{}
	for _, entry := range entries {
		name := entry.Name()
		if entry.IsDir() || !strings.HasSuffix(name, ".go") {
			continue
		}
		if match, err := context.MatchFile(folder, name); err != nil || !match {
			continue
		}
		path := filepath.Join(folder, name)
		file, err := parser.ParseFile(j.fset, path, nil, 0)
		if err != nil {
			continue
		}
		fmt.Fprintf(out, ",%s\n", j.relative(path))
		key := file.Name.Name
		if byName[key] == nil {
			byName[key] = &unit{}
			order = append(order, key)
		}
		byName[key].files = append(byName[key].files, file)
		byName[key].names = append(byName[key].names, path)
	}
	sort.SliceStable(order, func(a, b int) bool {
		late := func(name string) bool { return strings.HasSuffix(name, "_test") || name == "main" }
		if late(order[a]) != late(order[b]) {
			return late(order[b])
		}
		return len(byName[order[a]].files) > len(byName[order[b]].files)
	})
	for _, key := range order {
		j.units[folder] = append(j.units[folder], *byName[key])
	}
}

func (j *judge) relative(path string) string {
	rest, _ := filepath.Rel(j.root, path)
	return filepath.ToSlash(rest)
}

// Import finds packages of the folder; others are empty.
func (j *judge) Import(path string) (*types.Package, error) {
	best := ""
	for module := range j.homes {
		if (path == module || strings.HasPrefix(path, module+"/")) && len(module) > len(best) {
			best = module
		}
	}
	if best != "" {
		folder := filepath.Join(j.homes[best], strings.TrimPrefix(strings.TrimPrefix(path, best), "/"))
		if len(j.units[folder]) > 0 {
			return j.check(folder, false), nil
		}
	}
	parts := strings.Split(path, "/")
	name := parts[len(parts)-1]
	if len(parts) > 1 && len(name) > 1 && name[0] == 'v' && strings.Trim(name[1:], "0123456789") == "" {
		name = parts[len(parts)-2]
	}
	name = strings.TrimPrefix(strings.Split(name, ".v")[0], "go-")
	made := types.NewPackage(path, strings.ReplaceAll(name, "-", "_"))
	made.MarkComplete()
	return made, nil
}

// check types the packages of a folder; what others import leaves the tests out.
func (j *judge) check(folder string, whole bool) *types.Package {
	if !whole {
		if known := j.checked[folder]; known != nil {
			return known
		}
	}
	var first *types.Package
	for at, one := range j.units[folder] {
		if !whole && at > 0 {
			break
		}
		files := []*ast.File{}
		for i, file := range one.files {
			if whole || !strings.HasSuffix(one.names[i], "_test.go") {
				files = append(files, file)
			}
		}
		if len(files) == 0 {
			continue
		}
		config := types.Config{Importer: j, FakeImportC: true, Error: func(error) {}, DisableUnusedImportCheck: true}
		info := &types.Info{Uses: map[*ast.Ident]types.Object{}}
		made, _ := config.Check(folder+"#"+files[0].Name.Name, j.fset, files, info)
		if first == nil {
			first = made
			if !whole {
				j.checked[folder] = made
			}
		}
		if whole {
			j.note(info)
			j.noteBlank(files)
		}
	}
	return first
}

// noteBlank leads imports for their side effects to the first file of the package that is no test.
func (j *judge) noteBlank(files []*ast.File) {
	for _, file := range files {
		for _, spec := range file.Imports {
			if spec.Name == nil || spec.Name.Name != "_" {
				continue
			}
			made, _ := j.Import(strings.Trim(spec.Path.Value, "\"`"))
			folder := strings.Split(made.Path(), "#")[0]
			if units := j.units[folder]; len(units) > 0 {
				from := j.fset.PositionFor(file.Pos(), false).Filename
				first := units[0].names[0]
				for _, name := range units[0].names {
					if !strings.HasSuffix(name, "_test.go") {
						first = name
						break
					}
				}
				j.ties[j.relative(from)+","+j.relative(first)] = true
			}
		}
	}
}

func (j *judge) note(info *types.Info) {
	for use, object := range info.Uses {
		if object.Pkg() == nil || object.Parent() != object.Pkg().Scope() {
			continue
		}
		from, to := j.fset.PositionFor(use.Pos(), false).Filename, j.fset.PositionFor(object.Pos(), false).Filename
		if to == "" || from == to || from == "" {
			continue
		}
		j.ties[j.relative(from)+","+j.relative(to)] = true
	}
}
