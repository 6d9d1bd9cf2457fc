<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;

/**
 * Decides from zone maps which chunks cannot hold a row that meets the conditions. Only conditions that compare a bare
 * column with constants help: whatever wraps the column hides it.
 */
final readonly class ChunkPruner
{
    private const TURNED = ['eq' => 'eq', 'lt' => 'gt', 'le' => 'ge', 'gt' => 'lt', 'ge' => 'le'];

    /** @var list<Op> */
    private array $tests;

    /**
     * @param  list<Expr>  $conditions
     * @param  array<int, int>  $columns id => number of the column in the table
     */
    public function __construct(array $conditions, private array $columns)
    {
        $tests = [];
        foreach ($conditions as $condition) {
            $test = $this->test($condition);
            if ($test !== null) {
                $tests[] = $test;
            }
        }
        $this->tests = $tests;
    }

    /**
     * Ids of the columns whose bounds can be used.
     *
     * @return array<int, true>
     */
    public function columns(): array
    {
        $ids = [];
        foreach ($this->tests as $test) {
            $ids += $test->refs();
        }

        return $ids;
    }

    public function skips(Chunk $chunk): bool
    {
        foreach ($this->tests as $test) {
            if (! $this->possible($test, $chunk)) {
                return true;
            }
        }

        return false;
    }

    private function test(Expr $e): ?Op
    {
        if (! ($e instanceof Op)) {
            return null;
        }
        if ($e->name === 'and' || $e->name === 'or') {
            $parts = array_map($this->test(...), $e->args);
            $known = array_values(array_filter($parts));

            // A branch of OR that tells nothing makes the whole tell nothing.
            return $known === [] || ($e->name === 'or' && count($known) < count($parts)) ? null : new Op($e->name, $known, $e->type, true);
        }
        if (isset(self::TURNED[$e->name]) && $e->args[0] instanceof Constant && $e->args[1] instanceof Ref) {
            $e = new Op(self::TURNED[$e->name], [$e->args[1], $e->args[0]], $e->type, true);
        }
        $first = $e->args[0] ?? null;
        if (
            $e->name === 'not' &&
            $first instanceof Op &&
            $first->name === 'isnull' &&
            $first->args[0] instanceof Ref &&
            isset($this->columns[$first->args[0]->id])
        ) {
            return $e;
        }
        if (! ($first instanceof Ref) || ! isset($this->columns[$first->id])) {
            return null;
        }
        if ($e->name === 'isnull') {
            return $e;
        }
        $constants =
            array_filter(array_slice($e->args, 1), static fn (Expr $arg): bool => $arg instanceof Constant) === array_slice($e->args, 1);
        if ($e->name === 'like') {
            $pattern = $e->args[1] instanceof Constant && is_string($e->args[1]->value) ? $e->args[1]->value : '';

            return strcspn($pattern, '%_\\') > 0 && $e->extra === null ? $e : null;
        }

        return $constants && (isset(self::TURNED[$e->name]) || $e->name === 'in') ? $e : null;
    }

    private function possible(Op $test, Chunk $chunk): bool
    {
        if ($test->name === 'and' || $test->name === 'or') {
            foreach ($test->args as $arg) {
                if ($arg instanceof Op && $this->possible($arg, $chunk) === ($test->name === 'or')) {
                    return $test->name === 'or';
                }
            }

            return $test->name === 'and';
        }
        $ref = $test->name === 'not' && $test->args[0] instanceof Op ? $test->args[0]->args[0] : $test->args[0];
        $zone = $ref instanceof Ref ? $chunk->zones[$this->columns[$ref->id]] : null;
        if ($zone === null) {
            return true;
        }
        if ($test->name === 'isnull') {
            return $zone->nullCount > 0;
        }
        if ($zone->nullCount === $zone->rowCount) {
            return false;
        }
        if ($test->name === 'not' || $zone->min === null || $zone->max === null) {
            return true;
        }
        if ($test->name === 'in') {
            foreach (array_slice($test->args, 1) as $item) {
                if ($item instanceof Constant && $item->value !== null && $this->within($zone, 'eq', $item->value)) {
                    return true;
                }
            }

            return false;
        }
        $value = $test->args[1] instanceof Constant ? $test->args[1]->value : null;
        if ($value === null) {
            return false;
        }
        if ($test->name === 'like') {
            $prefix = substr((string) $value, 0, strcspn((string) $value, '%_\\'));

            return strcmp((string) $zone->max, $prefix) >= 0 && strncmp((string) $zone->min, $prefix, strlen($prefix)) <= 0;
        }

        return $this->within($zone, $test->name, $value);
    }

    private function within(ZoneMap $zone, string $operator, int|float|string|bool $value): bool
    {
        $low = self::order($zone->min, $value);
        $high = self::order($zone->max, $value);

        return match ($operator) {
            'eq' => $low <= 0 && $high >= 0,
            'lt' => $low < 0,
            'le' => $low <= 0,
            'gt' => $high > 0,
            default => $high >= 0,
        };
    }

    public static function order(int|float|string|bool|null $a, int|float|string|bool $b): int
    {
        return is_string($a) && is_string($b) ? strcmp($a, $b) : $a <=> $b;
    }
}
