<?php

declare(strict_types=1);

namespace Tests\Core;

use PHPUnit\Framework\TestCase;
use RecursiveDirectoryIterator;
use RecursiveIteratorIterator;
use SplFileInfo;

/**
 * Nothing asks what time it is but the application's one clock, so that a run can be set to any day. And no code
 * limits the time of the process it runs in: workers and test runs live on after the page that set it.
 */
final class ClockTest extends TestCase
{
    private const ALWAYS = ['time', 'microtime', 'localtime', 'getdate', 'now', 'today', 'set_time_limit'];

    /** Those that take a moment, as their last argument, and take the present one where it is left out. */
    private const WITHOUT_MOMENT = ['date' => 1, 'gmdate' => 1, 'idate' => 1, 'mktime' => 0, 'gmmktime' => 0];

    public function test_nobody_reads_the_time_but_the_clock(): void
    {
        $root = dirname(__DIR__, 2);
        $found = [];
        $files = 0;
        foreach (['app', 'core/src', 'practice/src', 'database', 'tools'] as $folder) {
            foreach (
                new RecursiveIteratorIterator(new RecursiveDirectoryIterator("{$root}/{$folder}",
                    RecursiveDirectoryIterator::SKIP_DOTS)) as $file
            ) {
                if (
                    $file instanceof SplFileInfo &&
                    $file->getExtension() === 'php' &&
                    ! str_ends_with($file->getPathname(), 'app/Platform/Support/Clock.php')
                ) {
                    $files++;
                    foreach (self::readings((string) file_get_contents($file->getPathname())) as $line => $what) {
                        $found[] = substr($file->getPathname(), strlen($root) + 1).":{$line} {$what}";
                    }
                }
            }
        }
        self::assertGreaterThan(400, $files);
        self::assertSame([], $found);
    }

    public function test_it_finds_what_it_looks_for(): void
    {
        $code =
            '<?php $a = time(); $b = $x->time(); $c = Carbon::now(); $d = Clock::now(); $e = date("Y"); $f = gmdate("Y", 3); $g = new '
                .'DateTimeImmutable(); '.
            '$h = new \DateTimeImmutable("@5"); $i = gmdate("Y", intdiv(4, 2)); function time() {} $j = now(); $k = new '
                .'DateTime("now"); $l = strtotime("+1 day"); $m = strtotime("2026-01-01", 5); set_time_limit(9);';
        self::assertSame(
            ['time()', 'Carbon::now()', 'date()', 'new DateTimeImmutable()', 'now()', 'new DateTime()', 'strtotime()', 'set_time_limit()'],
            array_values(self::readings(str_replace('; ', ";\n", $code))),
        );
    }

    /**
     * @return array<int, string> line => what is called there
     */
    private static function readings(string $code): array
    {
        $tokens = array_values(array_filter(\PhpToken::tokenize($code), static fn (\PhpToken $token): bool => ! $token->isIgnorable()));
        $found = [];
        foreach ($tokens as $i => $token) {
            $name = strtolower(ltrim($token->text, '\\'));
            if (! $token->is([T_STRING, T_NAME_FULLY_QUALIFIED]) || ($tokens[$i + 1]->text ?? '') !== '(') {
                continue;
            }
            $before = $tokens[$i - 1]->text ?? '';
            $arguments = self::arguments($tokens, $i + 1);
            $first = $arguments[0] ?? '';
            $what = match (true) {
                $before === '->' || $before === '?->' || $before === 'function' => null,
                $before === '::' => in_array($name, ['now', 'today'], true) && preg_match('~carbon|date$~i', $tokens[$i - 2]->text) === 1
                    ? "{$tokens[$i - 2]->text}::{$token->text}()"
                    : null,
                $before === 'new' => in_array($name, ['datetime', 'datetimeimmutable'], true) &&
                ($first === '' || preg_match('~^.(now|today|\+|-)~', $first) === 1)
                    ? 'new '.ltrim($token->text, '\\').'()'
                    : null,
                in_array($name, self::ALWAYS, true) => "{$name}()",
                isset(self::WITHOUT_MOMENT[$name]) && count($arguments) <= self::WITHOUT_MOMENT[$name],
                $name === 'strtotime' && count($arguments) < 2 && str_contains($first, '"+') => "{$name}()",
                default => null,
            };
            if ($what !== null) {
                $found[$token->line] = $what;
            }
        }

        return $found;
    }

    /**
     * @param  list<\PhpToken>  $tokens
     * @return list<string>
     */
    private static function arguments(array $tokens, int $open): array
    {
        $arguments = [];
        $depth = 0;
        for ($i = $open; isset($tokens[$i]); $i++) {
            $depth += in_array($tokens[$i]->text, ['(', '[', '{'], true)
                ? 1
                : (in_array($tokens[$i]->text, [')', ']', '}'], true)
                    ? -1
                    : 0);
            if ($depth === 0) {
                break;
            }
            if ($i === $open) {
                continue;
            }
            if ($tokens[$i]->text === ',' && $depth === 1) {
                $arguments[] = '';
            } else {
                $arguments[max(0, count($arguments) - 1)] = ($arguments[max(0, count($arguments) - 1)] ?? '').$tokens[$i]->text;
            }
        }

        return array_values($arguments);
    }
}
