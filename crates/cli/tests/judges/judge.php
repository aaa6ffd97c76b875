<?php

// Prints which file names what of which other file, by a parser and resolver of names that are not ours:
// `class|function|constant`, the file that names, the file that declares, the name, how many files declare it.

require '/usr/share/php/PhpParser/autoload.php';

use PhpParser\Node;
use PhpParser\NodeTraverser;
use PhpParser\NodeVisitor\NameResolver;
use PhpParser\NodeVisitorAbstract;
use PhpParser\ParserFactory;

final class Names extends NodeVisitorAbstract
{
    public array $declared = [];
    public array $used = [];

    public function enterNode(Node $node)
    {
        if ($node instanceof Node\Stmt\ClassLike && isset($node->namespacedName)) {
            $this->declared[] = 'class ' . $node->namespacedName;
        } elseif ($node instanceof Node\Stmt\Function_) {
            $this->declared[] = 'function ' . $node->namespacedName;
        } elseif ($node instanceof Node\Stmt\Const_) {
            foreach ($node->consts as $constant) {
                $this->declared[] = 'constant ' . $constant->namespacedName;
            }
        } elseif ($node instanceof Node\Stmt\Use_ || $node instanceof Node\Stmt\GroupUse) {
            $prefix = $node instanceof Node\Stmt\GroupUse ? $node->prefix . '\\' : '';
            foreach ($node->uses as $use) {
                $sort = [2 => 'function', 3 => 'constant'][$use->type | $node->type] ?? 'class';
                $this->used[] = [$sort, $prefix . $use->name, null];
            }
        } elseif ($node instanceof Node\Expr\FuncCall && $node->name instanceof Node\Name) {
            $this->use('function', $node->name);
        } elseif ($node instanceof Node\Expr\ConstFetch) {
            $this->use('constant', $node->name);
        } elseif ($node instanceof Node\Name\FullyQualified && !$node->getAttribute('done')) {
            $this->used[] = ['class', (string) $node, null];
        }
    }

    /** A function or constant is that of the own namespace, else the outermost one's. */
    private function use(string $sort, Node\Name $name): void
    {
        $this->used[] = [$sort, (string) ($name->getAttribute('namespacedName') ?? $name), (string) $name];
        $name->setAttribute('done', true);
    }
}

$root = realpath($argv[1]);
$parser = (new ParserFactory())->create(ParserFactory::PREFER_PHP7);
$declared = [];
$used = [];
$all = new RecursiveIteratorIterator(new RecursiveDirectoryIterator($root, FilesystemIterator::SKIP_DOTS));
foreach ($all as $entry) {
    if (!$entry->isFile() || $entry->getExtension() !== 'php') {
        continue;
    }
    $file = substr($entry->getPathname(), strlen($root) + 1);
    try {
        $tree = $parser->parse(file_get_contents($entry->getPathname()));
        $resolver = new NodeTraverser();
        $resolver->addVisitor(new NameResolver());
        $tree = $resolver->traverse($tree ?? []);
    } catch (PhpParser\Error $broken) {
        continue;
    }
    $names = new Names();
    $reader = new NodeTraverser();
    $reader->addVisitor($names);
    $reader->traverse($tree);
    foreach ($names->declared as $key) {
        $declared[$key][$file] = true;
    }
    $used[$file] = $names->used;
}
foreach ($used as $file => $uses) {
    foreach ($uses as [$sort, $name, $otherwise]) {
        $key = "$sort $name";
        if (!isset($declared[$key]) && $otherwise !== null) {
            $key = "$sort $otherwise";
        }
        if (!isset($declared[$key]) || isset($declared[$key][$file])) {
            continue;
        }
        foreach (array_keys($declared[$key]) as $to) {
            echo implode("\t", [$sort, $file, $to, $name, count($declared[$key])]), "\n";
        }
    }
}
