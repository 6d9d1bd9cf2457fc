<?php

declare(strict_types=1);

namespace Tests\Core;

use FilesystemIterator;
use Fulcrion\Core\Text\Parts;
use PhpParser\Node;
use PhpParser\Node\Expr;
use PhpParser\Node\Stmt;
use PhpParser\Node\Stmt\ClassMethod;
use PhpParser\NodeFinder;
use PhpParser\ParserFactory;
use PHPUnit\Framework\TestCase;
use RecursiveDirectoryIterator;
use RecursiveIteratorIterator;
use SplFileInfo;

/**
 * Rules of the code that no tool knows: lines one can read, capabilities of a size one can know, one meaning for each name.
 */
final class HouseTest extends TestCase
{
    private const LONGEST = 140;

    /** Lines of a method. */
    private const LONG = 60;

    /** Ways through it: branches, loops, conditions and their parts. */
    private const COMPLEX = 25;

    private const BOTH = [
        'core/src/Scheduling/Scheduler.php::go' => 'runs for each of 200,000 tasks; calls would double its time',
        'practice/src/Expression/Compiler.php::call' => 'one line for each function',
        'practice/src/Physical/JoinStep.php::produce' => 'runs for each row; calls would slow every join',
        'tools/Worlds/AccessWorld.php::rowsOf' => 'an oracle, kept apart from what it judges and in one piece',
        'tools/Worlds/AccessWorld.php::table' => 'an oracle, kept apart from what it judges and in one piece',
    ];

    /** Lines of code of a capability, without blank ones and comments. */
    private const LARGEST = 4500;

    private const FOLDERS = ['app', 'bootstrap', 'bin', 'config', 'core', 'database', 'practice', 'resources', 'tests', 'tools'];

    private const KINDS = ['php', 'js', 'scss'];

    public function test_every_line_can_be_read(): void
    {
        $long = [];
        $lines = 0;
        foreach (self::files(...self::FOLDERS) as $path => $file) {
            foreach (explode("\n", $file) as $i => $line) {
                $lines++;
                if (mb_strlen($line) > self::LONGEST) {
                    $long[] = "{$path}:".($i + 1);
                }
            }
        }
        self::assertGreaterThan(100_000, $lines);
        self::assertSame([], $long);
    }

    public function test_pages_name_classes_that_are_there(): void
    {
        $seen = 0;
        $missing = [];
        foreach (self::files('resources/views') as $path => $file) {
            preg_match_all('~\b(?:App|Fulcrion|Illuminate)(?:\\\\\w+)+(?![\w\\\\])~', $file, $found);
            foreach (array_unique($found[0]) as $name) {
                $seen++;
                if (! class_exists($name) && ! interface_exists($name) && ! enum_exists($name) && ! function_exists($name)) {
                    $missing[] = "{$path}: {$name}";
                }
            }
        }
        self::assertGreaterThan(150, $seen);
        self::assertSame([], $missing);
    }

    public function test_tables_dates_and_amounts_come_from_the_page_kit(): void
    {
        $byHand = [];
        $seen = 0;
        foreach (self::files('app', 'resources/views') as $path => $file) {
            if (str_starts_with($path, 'app/Platform/') || str_starts_with($path, 'resources/views/components/')) {
                $seen += (int) preg_match_all('~<table|number_format\(|moment\(|Axis~', $file);

                continue;
            }
            // A day, a weekday or a month as people read it; what machines read is left alone.
            if (preg_match('~<table\b|\bnumber_format\(|(?:date\(|->format\()\s*\'[^\']*[DljMF]|new Axis\(~', $file, $found) === 1) {
                $byHand[] = "{$path}: {$found[0]}";
            }
        }
        self::assertGreaterThan(5, $seen, 'the kit itself does');
        self::assertSame([], $byHand);
    }

    /**
     * Long is what one follows from its top to its end, and complex what one cannot; a method that is both is taken apart.
     */
    public function test_no_method_is_both_long_and_complex(): void
    {
        $parser = (new ParserFactory())->createForNewestSupportedVersion();
        $find = new NodeFinder();
        $both = [];
        $seen = 0;
        foreach (self::files('app', 'core/src', 'practice/src', 'tools') as $path => $file) {
            foreach ($find->findInstanceOf($parser->parse($file) ?? [], ClassMethod::class) as $method) {
                $body = $method->stmts ?? [];
                $seen++;
                if ($body === [] || $body[count($body) - 1]->getEndLine() - $body[0]->getStartLine() < self::LONG) {
                    continue;
                }
                $ways = 1 + count($find->find($body, self::branches(...)));
                if ($ways > self::COMPLEX) {
                    $both[] = "{$path}::{$method->name}";
                }
            }
        }
        sort($both);
        self::assertGreaterThan(3000, $seen);
        self::assertSame(array_keys(self::BOTH), $both, 'what is taken apart leaves the list, and nothing comes to it');
    }

    public function test_no_capability_is_larger_than_somebody_can_know(): void
    {
        $sizes = [];
        foreach (self::files('app') as $path => $file) {
            $capability = explode('/', $path)[1];
            $sizes[$capability] = ($sizes[$capability] ?? 0) + (int) preg_match_all('~^(?!\s*(?:$|//|\*|/\*))~m', $file);
        }
        self::assertGreaterThan(8, count($sizes));
        self::assertSame([], array_filter($sizes, static fn (int $lines): bool => $lines > self::LARGEST));
        $root = dirname(__DIR__, 2);
        $providers = (string) file_get_contents("{$root}/bootstrap/providers.php");
        foreach (array_keys($sizes) as $capability) {
            self::assertFileExists("{$root}/app/{$capability}/Provider.php");
            self::assertStringContainsString("App\\{$capability}\\Provider::class", $providers);
        }
    }

    public function test_no_page_writes_an_address_out(): void
    {
        $first = [];
        foreach (self::files('app') as $path => $file) {
            if (str_ends_with($path, '/routes.php')) {
                preg_match_all("~prefix\\('(\\w+)'\\)|Route::\\w+\\('/([\\w-]+)~", $file, $found);
                array_push($first, ...(preg_match('~prefix\\(~', $file) === 1 ? [...$found[1]] : [...$found[2]]));
            }
        }
        $first = array_values(array_unique(Parts::said($first)));
        self::assertContains('tune', $first);
        self::assertContains('ledger', $first);
        $literal = [];
        foreach (self::files('app', 'resources') as $path => $file) {
            $routes = str_ends_with($path, '/routes.php') || str_ends_with($path, '/api.php');
            if (! $routes && preg_match('~["\'`]/(?:'.implode('|', $first).')\b[^"\'\n]*~', $file, $match) === 1) {
                $literal[] = "{$path}: {$match[0]}";
            }
        }
        self::assertSame([], $literal);
    }

    public function test_no_name_stands_for_two_things(): void
    {
        $where = [];
        foreach (self::files('app', 'core', 'practice', 'tools') as $path => $file) {
            if (preg_match('~^(?:final |abstract |readonly )*(?:class|interface|trait|enum) (\w+)~m', $file, $match) === 1) {
                $where[strtolower($match[1])][] = $path;
            }
        }
        // Each capability has its provider.
        unset($where['provider']);
        self::assertGreaterThan(600, count($where));
        self::assertSame([], array_filter($where, static fn (array $paths): bool => count($paths) > 1));
    }

    private static function branches(Node $node): bool
    {
        return $node instanceof Stmt\If_ ||
            $node instanceof Stmt\ElseIf_ ||
            $node instanceof Stmt\For_ ||
            $node instanceof Stmt\Foreach_ ||
            $node instanceof Stmt\While_ ||
            $node instanceof Stmt\Case_ ||
            $node instanceof Stmt\Catch_ ||
            $node instanceof Expr\Ternary ||
            $node instanceof Expr\BinaryOp\BooleanAnd ||
            $node instanceof Expr\BinaryOp\BooleanOr ||
            $node instanceof Expr\BinaryOp\Coalesce ||
            ($node instanceof Node\MatchArm && $node->conds !== null);
    }

    /**
     * @return iterable<string, string> path => text of each PHP file
     */
    private static function files(string ...$folders): iterable
    {
        $root = dirname(__DIR__, 2);
        foreach ($folders as $folder) {
            $found = new RecursiveIteratorIterator(new RecursiveDirectoryIterator("{$root}/{$folder}", FilesystemIterator::SKIP_DOTS));
            foreach ($found as $file) {
                $path = $file instanceof SplFileInfo && in_array($file->getExtension(), self::KINDS, true) ? $file->getPathname() : '';
                if ($path !== '' && ! str_contains($path, '/bootstrap/cache/')) {
                    yield substr($path, strlen($root) + 1) => (string) file_get_contents($path);
                }
            }
        }
    }
}
