<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Expression\Scalar;

/**
 * Says expressions over tables as expressions over the groups of a rollup, where that gives the same for every row.
 */
final readonly class Derivation
{
    /** Units of date_trunc each of which is cut into whole ones of those in front of it. */
    private const WITHIN = [
        'second' => ['second'],
        'minute' => ['second', 'minute'],
        'hour' => ['second', 'minute', 'hour'],
        'day' => ['second', 'minute', 'hour', 'day'],
        'week' => ['second', 'minute', 'hour', 'day', 'week'],
        'month' => ['second', 'minute', 'hour', 'day', 'month'],
        'quarter' => ['second', 'minute', 'hour', 'day', 'month', 'quarter'],
        'year' => ['second', 'minute', 'hour', 'day', 'month', 'quarter', 'year'],
    ];

    /** Units of extract that are the same for all moments of one such unit. */
    private const TELLS = [
        'second' => ['second', 'minute', 'hour'],
        'minute' => ['minute', 'hour'],
        'hour' => ['hour'],
        'day' => [],
        'month' => ['month', 'quarter', 'year'],
        'quarter' => ['quarter', 'year'],
        'year' => ['year'],
        'week' => [],
    ];

    private const DAY_TELLS = ['day', 'dow', 'isodow', 'doy', 'week', 'month', 'quarter', 'year'];

    private const DAY_US = 86_400_000_000;

    /** From the begin of one unit at least to the begin of the next, and not to that after it. */
    private const LONGEST_US = [
        'second' => 1_000_000,
        'minute' => 60_000_000,
        'hour' => 3_600_000_000,
        'day' => self::DAY_US,
        'week' => 7 * self::DAY_US,
        'month' => 31 * self::DAY_US,
        'quarter' => 92 * self::DAY_US,
        'year' => 366 * self::DAY_US,
    ];

    /** @var array<string, list<array{string, Ref}>> expression => units it is known by, day where the group is a date */
    private array $moments;

    /**
     * @param  array<string, Ref>  $groups key of the expression => column of the rollup
     * @param  array<string, Expr>  $expressions the same keys => the expression
     * @param  callable(int): bool  $covered whether a column is of a table the rollup stands for
     */
    public function __construct(private array $groups, array $expressions, private mixed $covered)
    {
        $moments = [];
        foreach ($expressions as $key => $e) {
            if ($e instanceof Op && $e->name === 'date_trunc') {
                $moments[$e->args[0]->key()][] = [(string) $e->extra, $groups[$key]];
            } elseif (
                $e instanceof Op &&
                $e->name === 'cast' &&
                $e->type->is(TypeKind::Date) &&
                $e->args[0]->type->is(TypeKind::Timestamp)
            ) {
                $moments[$e->args[0]->key()][] = ['day', $groups[$key]];
            }
        }
        $this->moments = $moments;
    }

    /** Null where the rollup does not tell it. */
    public function of(Expr $e): ?Expr
    {
        if (isset($this->groups[$e->key()])) {
            return $this->groups[$e->key()];
        }
        if ($e instanceof Ref) {
            return ($this->covered)($e->id) ? null : $e;
        }
        if ($e instanceof Constant) {
            return $e;
        }
        if (! ($e instanceof Op)) {
            return null;
        }
        $coarser = $this->coarser($e) ?? $this->bound($e);
        if ($coarser !== null) {
            return $coarser;
        }
        $args = [];
        foreach ($e->args as $arg) {
            $derived = $this->of($arg);
            if ($derived === null) {
                return null;
            }
            $args[] = $derived;
        }

        return new Op($e->name, $args, $e->type, $e->nullable, $e->extra);
    }

    /** The first part of it the rollup does not tell, in words. */
    public function missing(Expr $e): string
    {
        foreach ($e->parts() as $part) {
            if ($this->of($part) === null) {
                return $this->missing($part);
            }
        }

        return $e->text();
    }

    private function coarser(Op $e): ?Expr
    {
        $moments = $this->moments[($e->args[0] ?? $e)->key()] ?? [];
        foreach ($moments as [$unit, $ref]) {
            if ($e->name === 'date_trunc' && in_array($unit, self::WITHIN[(string) $e->extra] ?? [], true)) {
                return new Op('date_trunc', [$this->asMoment($ref, $e->args[0]->type)], $e->type, $ref->nullable, $e->extra);
            }
            if ($e->name === 'cast' && $e->type->is(TypeKind::Date) && in_array($unit, self::WITHIN['day'], true)) {
                return $ref->type->is(TypeKind::Date) ? $ref : new Op('cast', [$ref], $e->type, $ref->nullable);
            }
            if ($e->name === 'extract') {
                $tells = [...self::TELLS[$unit] ?? [], ...in_array($unit, self::WITHIN['day'], true) ? self::DAY_TELLS : []];
                if (in_array((string) $e->extra, $tells, true)) {
                    return new Op('extract', [$ref], $e->type, $ref->nullable, $e->extra);
                }
            }
        }

        return null;
    }

    /** A moment compared with one where a unit begins: t >= noon holds for the hours from noon on, and t < noon for those before. */
    private function bound(Op $e): ?Expr
    {
        [$moment, $name, $value] = $this->end($e) ?? [null, '', 0];
        if ($moment === null) {
            return null;
        }
        foreach ($this->moments[$moment->key()] ?? [] as [$unit, $ref]) {
            if ($this->cut($moment->type, $value, $unit) === $value) {
                return new Op($name, [$ref, new Constant($this->ofGroup($ref, $moment->type, $value), $ref->type)], $e->type, $e->nullable);
            }
        }

        return null;
    }

    /** A moment compared with one within a unit: whole units tell all but the rows up to the next one. */
    public function edge(Expr $e): ?Edge
    {
        [$moment, $name, $value] = ($e instanceof Op ? $this->end($e) : null) ?? [null, '', 0];
        if ($moment === null) {
            return null;
        }
        $best = null;
        foreach ($this->moments[$moment->key()] ?? [] as [$unit, $ref]) {
            $next = $this->cut($moment->type, $value, $unit);
            if ($name === 'ge') {
                $next = $this->cut(
                    $moment->type,
                    $next + intdiv(self::LONGEST_US[$unit], $moment->type->is(TypeKind::Date) ? self::DAY_US : 1),
                    $unit,
                );
            }
            if ($best === null || abs($next - $value) < abs($best->next - $value)) {
                $best = new Edge($name === 'ge', $moment, $e, $value, $next, $unit, $ref, $this->ofGroup($ref, $moment->type, $next));
            }
        }

        return $best;
    }

    /**
     * @return array{Expr, 'ge'|'lt', int}|null moment and value, in units of its type
     */
    private function end(Op $e): ?array
    {
        if (! in_array($e->name, ['ge', 'lt', 'le', 'gt'], true)) {
            return null;
        }
        [$moment, $constant, $name] =
            $e->args[0] instanceof Constant
                ? [$e->args[1], $e->args[0], ['ge' => 'le', 'lt' => 'gt', 'le' => 'ge', 'gt' => 'lt'][$e->name]]
                : [$e->args[0], $e->args[1], $e->name];
        if (! ($constant instanceof Constant) || ! is_int($constant->value) || ! $moment->type->is(TypeKind::Timestamp, TypeKind::Date)) {
            return null;
        }

        // What is not after a moment is before the next one; both are whole numbers.
        return [
            $moment,
            $name === 'le' || $name === 'lt' ? 'lt' : 'ge',
            $name === 'le' || $name === 'gt' ? $constant->value + 1 : $constant->value,
        ];
    }

    private function cut(ColumnType $type, int $value, string $unit): int
    {
        return $type->is(TypeKind::Date) ? Scalar::truncateDay($value, $unit) : Scalar::truncateTime($value, $unit);
    }

    private function ofGroup(Ref $group, ColumnType $type, int $value): int
    {
        return $group->type->is(TypeKind::Date) && ! $type->is(TypeKind::Date) ? intdiv($value, self::DAY_US) : $value;
    }

    private function asMoment(Ref $ref, ColumnType $type): Expr
    {
        return $ref->type->is(TypeKind::Date) && $type->is(TypeKind::Timestamp) ? new Op('cast', [$ref], $type, $ref->nullable) : $ref;
    }
}
