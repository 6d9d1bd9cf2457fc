<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Catalog\AllowedValues;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\MaskKind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;

/**
 * What one person or role may do. Columns that stand under the same grants and rules and carry the same labels are
 * decided once.
 */
final class Reader
{
    /**
     * @var array<string, array{int, int, list<string>, list<string>}> path => allowed bits, denied bits, grants that allow,
     *     grants that deny
     */
    private array $at = [];

    /** @var array<string, list<Rule>> scope => rules */
    private array $ruled = [];

    /** @var array<string, true> tables with a grant or rule at one of their columns */
    private array $touched = [];

    /** @var array<string, array<string, true>> schema => its tables at which, or at whose columns, something stands */
    private array $special = [];

    /** @var array<string, Standing> */
    private array $standings = [];

    /** @var array<string, Cause|null> */
    private array $entries = [];

    /** @var array<string, ColumnAccess> */
    private array $decided = [];

    /** @var array<string, TableAccess> */
    private array $tables = [];

    private readonly ColumnAccess $plain;

    /**
     * @param  array<string, bool|int|float|string|list<bool|int|float|string>>  $attributes
     * @param  array<string, string|null>  $roles held, with the role each is held through
     * @param  array<string, true>  $subjects everyone, the subject itself and its roles
     * @param  list<Item>  $grants that concern it
     * @param  list<Rule>  $rules that concern it
     * @param  array<string, string>  $owned object => as whom
     */
    public function __construct(
        public readonly Policy $policy,
        public readonly string $subject,
        public readonly array $attributes,
        public readonly array $roles,
        public readonly array $subjects,
        public readonly array $grants,
        public readonly array $rules,
        public readonly array $owned,
    ) {
        $this->plain = new ColumnAccess(Sight::Visible);
        foreach ($grants as $grant) {
            $path = $grant->text('on');
            $bits = Privilege::bits($grant->texts('privileges'));
            $entry = $this->at[$path] ?? [0, 0, [], []];
            if ($grant->text('effect') === 'deny') {
                $entry[1] |= $bits;
                $entry[3][] = $grant->name;
            } else {
                $entry[0] |= $bits;
                $entry[2][] = $grant->name;
            }
            $this->at[$path] = $entry;
            $this->touch($path);
        }
        $all = (1 << count(Privilege::cases())) - 1;
        foreach (array_keys($owned) as $path) {
            $entry = $this->at[$path] ?? [0, 0, [], []];
            $entry[0] = $all;
            $this->at[$path] = $entry;
            $this->touch((string) $path);
        }
        foreach ($rules as $rule) {
            $this->ruled[$rule->scope][] = $rule;
            $this->touch($rule->scope);
        }
    }

    private function touch(string $path): void
    {
        $parts = ObjectPath::parts($path);
        if (count($parts) === 4) {
            $this->touched[(string) ObjectPath::parent($path)] = true;
        }
        if (count($parts) > 2) {
            $this->special[ObjectPath::of(array_slice($parts, 0, 2))][ObjectPath::of(array_slice($parts, 0, 3))] = true;
        }
    }

    /** Whether a grant or rule stands at a column of a table. */
    public function touches(string $table): bool
    {
        return isset($this->touched[$table]);
    }

    /**
     * Tables of a schema about which grants or rules of their own speak; all others stand as the schema does.
     *
     * @return array<string, true>
     */
    public function special(string $schema): array
    {
        return $this->special[$schema] ?? [];
    }

    /** What has gathered on the way from the estate to an object. */
    public function standing(string $path): Standing
    {
        if (isset($this->standings[$path])) {
            return $this->standings[$path];
        }
        $parent = ObjectPath::parent($path);
        $above = $parent === null ? new Standing(0, 0, [], '') : $this->standing($parent);
        $own = $this->at[$path] ?? null;
        $rules = $this->ruled[$path] ?? [];
        if ($own === null && $rules === []) {
            return $this->standings[$path] = $above;
        }

        return $this->standings[$path] = new Standing(
            $above->allowed | ($own[0] ?? 0),
            $above->denied | ($own[1] ?? 0),
            [...$above->rules, ...$rules],
            $above->key.'>'.$path,
        );
    }

    public function can(Privilege $privilege, string $path): bool
    {
        return $this->missing($privilege, $path) === null;
    }

    /** Why a privilege is not held on an object; null when it is. */
    public function missing(Privilege $privilege, string $path): ?Cause
    {
        $standing = $this->standing($path);
        if (($standing->denied & $privilege->bit()) !== 0) {
            return $this->denial($privilege, $path);
        }

        return ($standing->allowed & $privilege->bit()) !== 0
            ? null
            : ($privilege === Privilege::Use
                ? new Cause(Cause::NO_USE, $privilege->value, $path)
                : new Cause(Cause::NO_GRANT, $privilege->value, $path));
    }

    /** Why a schema cannot be entered. */
    private function entry(string $schema): ?Cause
    {
        if (! array_key_exists($schema, $this->entries)) {
            $this->entries[$schema] = $this->missing(Privilege::Use, $schema);
        }

        return $this->entries[$schema];
    }

    private function denial(Privilege $privilege, string $path): Cause
    {
        foreach (ObjectPath::line($path) as $place) {
            foreach ($this->grants as $grant) {
                if (
                    $grant->text('on') === $place &&
                    $grant->text('effect') === 'deny' &&
                    (Privilege::bits($grant->texts('privileges')) & $privilege->bit()) !== 0
                ) {
                    return new Cause(Cause::DENY_GRANT, $grant->name, $place, $privilege->value);
                }
            }
        }

        return new Cause(Cause::NO_GRANT, $privilege->value, $path);
    }

    public function table(TableEntry $table): TableAccess
    {
        return $this->tables[$table->path] ??= $this->decide($table, true);
    }

    /** By rules alone, as if everything were granted: what still holds for who reads through a view. */
    public function tableByRules(TableEntry $table): TableAccess
    {
        return $this->tables["rules {$table->path}"] ??= $this->decide($table, false);
    }

    /** By the rules on a table alone that others were made of, without what that was made of itself: origins are flat. */
    public function sourceByRules(TableEntry $table): TableAccess
    {
        return $this->tables["source {$table->path}"] ??= $this->decide($table, false);
    }

    /** Without remembering it, for those who ask about everything once. */
    public function glance(TableEntry $table): TableAccess
    {
        return $this->tables[$table->path] ?? $this->decide($table, true);
    }

    private function decide(TableEntry $table, bool $byGrants): TableAccess
    {
        $standing = $this->standing($table->path);
        $labels = $this->policy->labels($table);
        $entry = $byGrants ? $this->entry((string) ObjectPath::parent($table->path)) : null;
        [$filters, $errors] = $standing->filters ? $this->filters($table, $standing, $labels) : [[], []];
        $closed = $entry === null ? $errors : [$entry, ...$errors];
        $columns = [];
        if ($closed !== []) {
            $columns = array_fill_keys(array_keys($table->columns), new ColumnAccess(Sight::Denied, null, $closed));
        } else {
            $common = null;
            $touched = isset($this->touched[$table->path]);
            foreach ($table->columns as $column => $_) {
                if (! $touched && ! isset($labels->shapes[$column])) {
                    // Nothing sets it apart from the table.
                    $columns[$column] = $common ??= $this->column(
                        $standing,
                        $table->path,
                        $labels,
                        $labels->ownShape,
                        $labels->table,
                        $byGrants,
                    );

                    continue;
                }
                $columns[$column] = $this->column(
                    $touched ? $this->standing(ObjectPath::child($table->path, (string) $column)) : $standing,
                    $touched ? ObjectPath::child($table->path, (string) $column) : $table->path,
                    $labels,
                    $labels->shapes[$column] ?? $labels->ownShape,
                    $labels->columns[$column] ?? $labels->table,
                    $byGrants,
                );
            }
        }

        $access = new TableAccess($table, $columns, $filters, $standing->allowed & ~$standing->denied, $errors);
        $origins = $this->policy->origins($table);
        $access = $origins === [] ? $access : (new Inheritance($this, $byGrants))->of($access, $origins);

        return $this->mayPlant($standing) ? self::withoutHashes($access) : $access;
    }

    /** Whoever may write values into a column could read their hashes there, and so try out what others stand for. */
    private static function withoutHashes(TableAccess $access): TableAccess
    {
        $columns = $access->columns;
        foreach ($columns as $column => $one) {
            if ($one->mask !== null && Masking::kind($one->mask) === MaskKind::Hash) {
                $columns[$column] = new ColumnAccess(Sight::Masked, Masking::nothing(), [
                    ...$one->causes,
                    new Cause(Cause::HASH, '', $access->table->path),
                ]);
            }
        }

        return new TableAccess($access->table, $columns, $access->filters, $access->privileges, $access->errors);
    }

    /** Whether values can be brought into a table, in whatever way. */
    private function mayPlant(Standing $standing): bool
    {
        $held = $standing->allowed & ~$standing->denied;

        return ($held & (Privilege::Insert->bit() | Privilege::Update->bit() | Privilege::Create->bit() | Privilege::Alter->bit())) !== 0;
    }

    /** Whether a right to read is given at an object itself, and not at one above it. */
    public function isGivenAt(string $path): bool
    {
        return (($this->at[$path][0] ?? 0) & Privilege::Select->bit()) !== 0;
    }

    /**
     * @param  array<string, string>  $own labels of the column
     */
    private function column(Standing $standing, string $path, TableLabels $labels, int $shape, array $own, bool $byGrants): ColumnAccess
    {
        $granted = ! $byGrants || ($standing->allowed & ~$standing->denied & Privilege::Select->bit()) !== 0;
        if (! $granted) {
            $cause = $this->missing(Privilege::Select, $path);

            return new ColumnAccess(Sight::Denied, null, $cause === null ? [] : [$cause]);
        }
        if ($standing->rules === []) {
            return $this->plain;
        }
        $key = "{$standing->key}|{$shape}|".($standing->asksTable ? $labels->tableShape : 0);

        return $this->decided[$key] ??= $this->byRules($standing->rules, $labels, $shape, $own);
    }

    /**
     * @param  list<Rule>  $rules
     * @param  array<string, string>  $own
     */
    private function byRules(array $rules, TableLabels $labels, int $shape, array $own): ColumnAccess
    {
        $access = $this->plain;
        foreach ($rules as $rule) {
            if (! $rule->byColumn) {
                continue;
            }
            $found = ! $rule->isSame
                ? $this->verdict($rule, $labels, $own)
                : $this->policy->verdict(
                    $rule,
                    $shape,
                    $rule->asksTable ? $labels->tableShape : 0,
                    fn (): ?ColumnAccess => $this->verdict($rule, $labels, $own),
                );
            if ($found !== null) {
                $access = $access->and($found);
            }
        }

        return $access;
    }

    /**
     * @param  array<string, string>  $own
     */
    private function verdict(Rule $rule, TableLabels $labels, array $own): ?ColumnAccess
    {
        $name = $rule->item->name;
        if ($rule->error !== null || $rule->condition === null) {
            return new ColumnAccess(Sight::Denied, null, [new Cause(Cause::RULE_ERROR, $name, $rule->scope, (string) $rule->error)]);
        }
        try {
            if (! $rule->condition->holds($own, $labels->table, $labels->columnKeys, $this->attributes, $this->roles)) {
                return null;
            }
        } catch (ConditionError $error) {
            return new ColumnAccess(Sight::Denied, null, [new Cause(Cause::RULE_ERROR, $name, $rule->scope, $error->getMessage())]);
        }

        return match ($rule->effect) {
            'deny' => new ColumnAccess(Sight::Denied, null, [new Cause(Cause::RULE_DENY, $name, $rule->scope)]),
            'hide' => new ColumnAccess(Sight::Hidden, null, [new Cause(Cause::RULE_HIDE, $name, $rule->scope)]),
            default => new ColumnAccess(Sight::Masked, $rule->mask, [new Cause(Cause::RULE_MASK, $name, $rule->scope)]),
        };
    }

    /**
     * @return array{array<string, \Fulcrion\Core\Access\Policy\RowFilter>, list<Cause>}
     */
    private function filters(TableEntry $table, Standing $standing, TableLabels $labels): array
    {
        $filters = $errors = [];
        foreach ($standing->rules as $rule) {
            if ($rule->byColumn || $rule->condition === null || $rule->filter === null) {
                continue;
            }
            try {
                if (! $rule->condition->holds($labels->table, $labels->table, $labels->columnKeys, $this->attributes, $this->roles)) {
                    continue;
                }
                $rule->filter->forReader($this->attributes);
                $strange = array_values(
                    array_filter($rule->filter->columns(), static fn (string $column): bool => ! isset($table->columns[$column])),
                );
                if ($strange !== []) {
                    throw new ConditionError("its filter names {$strange[0]}, which is no column of {$table->path}.");
                }
                $filters[$rule->item->name] = $rule->filter;
            } catch (ConditionError $error) {
                $errors[] = new Cause(Cause::RULE_ERROR, $rule->item->name, $rule->scope, $error->getMessage());
            }
        }

        return [$filters, $errors];
    }

    /**
     * Value scopes that concern the reader.
     *
     * @return list<Item>
     */
    public function scopes(string $dimension): array
    {
        $mine = [];
        foreach ($this->policy->scopesOf($dimension) as $scope) {
            $named = array_filter($scope->texts('for'), fn (string $subject): bool => isset($this->subjects[$subject]));
            $free = array_filter($scope->texts('except'), fn (string $subject): bool => isset($this->subjects[$subject])) === [];
            if ($named !== [] && $free) {
                $mine[] = $scope;
            }
        }

        return $mine;
    }

    /**
     * @param  bool  $totals whether what is allowed in totals only counts as well
     */
    public function allowed(string $dimension, string $column, bool $totals): AllowedValues
    {
        $scopes = array_values(
            array_filter($this->scopes($dimension), static fn (Item $scope): bool => $totals || $scope->text('level') === 'detail'),
        );

        return AllowedValues::of($scopes, $this->policy->hierarchyOf($dimension), $column === '' ? null : $column);
    }

    /** Refusing wins over trimming; without any scope, what is asked for is refused. */
    public function mode(string $dimension): string
    {
        $scopes = $this->scopes($dimension);
        foreach ($scopes as $scope) {
            if ($scope->text('mode') === 'refuse') {
                return 'refuse';
            }
        }

        return $scopes === [] ? 'refuse' : 'trim';
    }
}
