<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Decide\ColumnAccess;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Reader;
use Fulcrion\Core\Access\Decide\RoleClosure;
use Fulcrion\Core\Access\Decide\Rule;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Access\Decide\Standing;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\ItemChange;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * Who would gain and lose what between two policies. People who stand alike in both are looked at once, and only tables
 * a change can reach.
 */
final class BlastRadius
{
    private readonly Printer $printer;

    /** @var array<string, bool> rule and table => whether it can hold for any of its columns */
    private array $matches = [];

    public function __construct(private readonly Policy $before, private readonly Policy $after)
    {
        $this->printer = new Printer();
    }

    /**
     * @return list<Shift> losses first, those that concern most people first
     *
     * @throws ConditionError
     * @throws SyntaxError
     */
    public function shifts(): array
    {
        $changes = $this->before->document->changesTo($this->after->document);
        if ($changes === []) {
            return [];
        }
        [$bySchema, $always] = [[], []];
        foreach ($this->reached($changes) as $table) {
            $bySchema[(string) ObjectPath::parent($table->path)][$table->path] = $table;
            // What a view shows depends on tables elsewhere; values are not told by standing.
            if (
                $table->view !== null ||
                $table->origins !== [] ||
                $this->before->carriers($table) !== [] ||
                $this->after->carriers($table) !== [] ||
                ! $this->before->labels($table)->same($this->after->labels($table))
            ) {
                $always[$table->path] = true;
            }
        }
        $groups = [];
        $classes = $this->classes($this->people($changes));
        foreach ($classes as $class => $people) {
            foreach (
                $this->differences($people[0], $this->candidates($people[0], $bySchema, $always)) as [$kind, $object, $from, $to, $gains]
            ) {
                $groups["{$kind}|{$from}|{$to}|".($gains ? 1 : 0)][$object][] = $class;
            }
        }
        $shifts = [];
        foreach ($groups as $key => $objects) {
            [$kind, $from, $to, $gains] = explode('|', $key);
            $alike = [];
            foreach ($objects as $object => $of) {
                $alike[implode(' ', $of)][] = (string) $object;
            }
            foreach ($alike as $of => $paths) {
                $people = array_merge(...array_map(static fn (string $class): array => $classes[(int) $class], explode(' ', (string) $of)));
                sort($people);
                $shifts[] = new Shift($kind, $people, $paths, $from, $to, $gains === '1');
            }
        }
        usort(
            $shifts,
            static fn (Shift $a, Shift $b): int => [$a->gains, -count($a->people), -count($a->objects), $a->objects[0]] <=> [
                $b->gains,
                -count($b->people),
                -count($b->objects),
                $b->objects[0],
            ],
        );

        return $shifts;
    }

    /**
     * People a change can concern.
     *
     * @param  list<ItemChange>  $changes
     * @return list<string> subjects
     */
    private function people(array $changes): array
    {
        $all = array_map(
            static fn (int|string $name): string => Subject::person((string) $name),
            array_keys($this->before->document->all(Kind::People) + $this->after->document->all(Kind::People)),
        );
        $subjects = [];
        foreach ($changes as $change) {
            foreach (array_filter([$change->before, $change->after], static fn (?Item $item): bool => $item !== null) as $item) {
                $named = match ($change->kind) {
                    Kind::People => [Subject::person($change->name)],
                    Kind::Roles => [Subject::role($change->name)],
                    Kind::Grants => [...$item->texts('to'), ...$item->texts('except')],
                    Kind::Rules, Kind::Scopes => [...$item->texts('for'), ...$item->texts('except')],
                    Kind::Products, Kind::Vocabulary => [],
                    default => [Subject::EVERYONE],
                };
                $subjects += array_fill_keys($named, true);
            }
        }
        if (isset($subjects[Subject::EVERYONE])) {
            return $all;
        }
        $found = [];
        foreach ($all as $subject) {
            foreach ([$this->before, $this->after] as $policy) {
                $person = $policy->document->find(Kind::People, Subject::split($subject)[1]);
                $mine = [$subject => true];
                foreach (array_keys(RoleClosure::of($policy->document->all(Kind::Roles), $person?->texts('roles') ?? [])) as $role) {
                    $mine[Subject::role((string) $role)] = true;
                }
                if (array_intersect_key($mine, $subjects) !== []) {
                    $found[$subject] = true;
                }
            }
        }

        return array_map(strval(...), array_keys($found));
    }

    /**
     * Tables a change can reach; views are looked at whenever any table is.
     *
     * @param  list<ItemChange>  $changes
     * @return list<TableEntry>
     */
    private function reached(array $changes): array
    {
        $places = [];
        foreach ($changes as $change) {
            foreach (array_filter([$change->before, $change->after], static fn (?Item $item): bool => $item !== null) as $item) {
                $named = match ($change->kind) {
                    Kind::Grants, Kind::Labels => [$item->text('on')],
                    Kind::Rules => [$item->text('scope')],
                    Kind::Owners, Kind::Releases => [$change->name],
                    Kind::Dimensions => array_map(strval(...), array_keys($item->map('columns'))),
                    Kind::Scopes => array_map(
                        strval(...),
                        array_keys(
                            (
                                $this->after->document->find(Kind::Dimensions, $item->text('dimension')) ??
                                $this->before->document->find(Kind::Dimensions, $item->text('dimension'))
                            )?->map('columns') ?? [],
                        ),
                    ),
                    Kind::Vocabulary, Kind::Products => [],
                    default => [ObjectPath::ESTATE],
                };
                $places += array_fill_keys(array_map(strtolower(...), $named), true);
            }
        }
        $tables = [];
        foreach (array_keys($places) as $place) {
            foreach ($this->after->catalog->below((string) $place) as $table) {
                $tables[$table->path] = $table;
            }
        }
        if ($tables !== []) {
            foreach ($this->after->catalog->tables as $table) {
                if ($table->view !== null || $table->origins !== []) {
                    $tables[$table->path] = $table;
                }
            }
        }

        return array_values($tables);
    }

    /**
     * People put together who stand under the same grants, rules, scopes and attributes in both policies.
     *
     * @param  list<string>  $subjects
     * @return list<list<string>>
     */
    private function classes(array $subjects): array
    {
        $classes = $known = [];
        $before = new Likeness($this->before->document);
        $after = new Likeness($this->after->document);
        foreach ($subjects as $subject) {
            // Most people differ in nothing but their name; their standing is worked out once.
            $key = $before->of($subject).$after->of($subject);
            $known[$key] ??= $this->standing($this->before, $subject).$this->standing($this->after, $subject);
            $classes[$known[$key]][] = $subject;
        }

        return array_values($classes);
    }

    private function standing(Policy $policy, string $subject): string
    {
        return self::standingOf($policy->reader($subject));
    }

    /** The same for readers about whom every decision is the same. */
    public static function standingOf(Reader $reader): string
    {
        $attributes = $roles = [];
        foreach ($reader->rules as $rule) {
            foreach ($rule->attributes as $name) {
                $attributes[$name] = $reader->attributes[$name] ?? null;
            }
            if ($rule->condition !== null && ! $rule->isSame) {
                $roles = array_keys($reader->roles);
            }
        }
        ksort($attributes);
        sort($roles);
        $scopes = [];
        foreach (array_keys($reader->policy->document->all(Kind::Dimensions)) as $dimension) {
            foreach ($reader->scopes((string) $dimension) as $scope) {
                $scopes[] = $scope->name;
            }
        }
        $grants = array_map(static fn (Item $grant): string => $grant->name, $reader->grants);
        $rules = array_map(static fn (Rule $rule): string => $rule->item->name, $reader->rules);
        sort($grants);
        sort($rules);

        return hash('xxh128', serialize([$grants, $rules, array_keys($reader->owned), $attributes, $roles, $scopes]));
    }

    /**
     * Tables that may look otherwise to somebody: those that stand otherwise, and those a rule that came or went holds for.
     *
     * @param  array<string, array<string, TableEntry>>  $bySchema
     * @param  array<string, true>  $always
     * @return list<TableEntry>
     */
    private function candidates(string $subject, array $bySchema, array $always): array
    {
        [$old, $new] = [$this->before->reader($subject), $this->after->reader($subject)];
        // Who is somebody else now may be meant by a rule that stayed the same.
        $moved = $old->attributes !== $new->attributes || $old->roles !== $new->roles;
        $found = [];
        foreach ($bySchema as $schema => $tables) {
            [$a, $b] = [$old->standing((string) $schema), $new->standing((string) $schema)];
            $special = $old->special((string) $schema) + $new->special((string) $schema);
            if ($a->allowed !== $b->allowed || $a->denied !== $b->denied) {
                array_push($found, ...array_values($tables));

                continue;
            }
            // Where nothing is allowed before and after, no rule can make a difference.
            $rules = self::isClosed($a) ? [] : self::rulesBetween($a->rules, $b->rules, $moved);
            foreach ($rules === [] ? array_intersect_key($tables, $special + $always) : $tables as $path => $table) {
                if (
                    isset($special[$path])
                        ? $this->standsOtherwise($old, $new, $table, isset($always[$path]), $moved)
                        : (isset($always[$path]) && ! self::isClosed($a)) || $this->anyMatches($rules, $table)
                ) {
                    $found[] = $table;
                }
            }
        }

        return $found;
    }

    private static function isClosed(Standing $standing): bool
    {
        $reads = Privilege::Select->bit() | Privilege::Use->bit();

        return ($standing->allowed & ~$standing->denied & $reads) !== $reads;
    }

    /** Of a table with grants or rules of its own. */
    private function standsOtherwise(Reader $old, Reader $new, TableEntry $table, bool $always, bool $moved): bool
    {
        [$a, $b] = [$old->standing($table->path), $new->standing($table->path)];
        if ($old->touches($table->path) || $new->touches($table->path) || $a->allowed !== $b->allowed || $a->denied !== $b->denied) {
            return true;
        }

        return ! self::isClosed($a) && ($always || $this->anyMatches(self::rulesBetween($a->rules, $b->rules, $moved), $table));
    }

    /**
     * @param  list<Rule>  $a
     * @param  list<Rule>  $b
     * @param  bool  $all whether those in both count too
     * @return array<string, Rule> those that are in one only, by what they say
     */
    private static function rulesBetween(array $a, array $b, bool $all): array
    {
        if ($a === [] && $b === []) {
            return [];
        }
        $x = $y = [];
        foreach ($a as $rule) {
            $x[$rule->digest] = $rule;
        }
        foreach ($b as $rule) {
            $y[$rule->digest] = $rule;
        }

        return $all ? $x + $y : array_diff_key($x, $y) + array_diff_key($y, $x);
    }

    /**
     * @param  array<string, Rule>  $rules
     */
    private function anyMatches(array $rules, TableEntry $table): bool
    {
        foreach ($rules as $digest => $rule) {
            if ($this->matches["{$digest}{$table->path}"] ??= $this->isMatch($rule, $table)) {
                return true;
            }
        }

        return false;
    }

    private function isMatch(Rule $rule, TableEntry $table): bool
    {
        if (! $rule->byColumn || $rule->condition === null || ! $rule->isSame) {
            return true;
        }
        foreach ([$this->before->labels($table), $this->after->labels($table)] as $labels) {
            foreach ([$labels->table, ...array_values($labels->columns)] as $own) {
                try {
                    if ($rule->condition->holds($own, $labels->table, $labels->columnKeys, [], [])) {
                        return true;
                    }
                } catch (ConditionError) {
                    return true;
                }
            }
        }

        return false;
    }

    /**
     * @param  list<TableEntry>  $tables
     * @return list<array{string, string, string, string, bool}> kind, object, before, after, whether it is a gain
     *
     * @throws ConditionError
     * @throws SyntaxError
     */
    private function differences(string $subject, array $tables): array
    {
        $old = $this->before->reader($subject);
        $new = $this->after->reader($subject);
        $found = [];
        foreach ($tables as $table) {
            $a = $old->glance($table);
            $b = $new->glance($table);
            if ($table->view === null) {
                [$from, $to] = [$a->columns, $b->columns];
            } else {
                $from = (new StatementDecider($this->before, $old, ObjectPath::parts($table->path)[0]))->columnsOf($table);
                $to = (new StatementDecider($this->after, $new, ObjectPath::parts($table->path)[0]))->columnsOf($table);
            }
            $open = false;
            foreach ($to as $column => $access) {
                $open = $open || $access->sight === Sight::Visible || $access->sight === Sight::Masked;
                $before = $from[$column] ?? null;
                if ($before === null || ($before->sight === $access->sight && $before->mask === null && $access->mask === null)) {
                    continue;
                }
                if ($before->key() !== $access->key() || self::maskOf($before) !== self::maskOf($access)) {
                    $found[] = [
                        Shift::COLUMNS,
                        ObjectPath::child($table->path, (string) $column),
                        $before->words(),
                        $access->words(),
                        self::order($access, $before) < 0,
                    ];
                }
            }
            if ($open) {
                $rows = [$this->rows($old, $table, $a), $this->rows($new, $table, $b)];
                if ($rows[0] !== $rows[1]) {
                    // More conditions leave fewer rows; where both have some, it is called a loss so that somebody looks.
                    $found[] = [
                        Shift::ROWS,
                        $table->path,
                        $rows[0] === '' ? 'all rows' : "rows where {$rows[0]}",
                        $rows[1] === '' ? 'all rows' : "rows where {$rows[1]}",
                        $rows[1] === '',
                    ];
                }
            }
            if (($a->privileges ^ $b->privileges) !== 0) {
                array_push($found, ...$this->privileges($table->path, $a->privileges, $b->privileges));
            }
        }

        return $found;
    }

    private static function maskOf(ColumnAccess $access): string
    {
        return $access->mask?->digest() ?? '';
    }

    private static function order(ColumnAccess $a, ColumnAccess $b): int
    {
        if ($a->sight !== $b->sight) {
            return $a->sight->rank() <=> $b->sight->rank();
        }
        if ($a->mask !== null && $b->mask !== null) {
            return \Fulcrion\Core\Access\Decide\Masking::stricter($a->mask, $b->mask) === $a->mask ? 1 : -1;
        }

        return 0;
    }

    /**
     * @throws ConditionError
     */
    private function rows(Reader $reader, TableEntry $table, \Fulcrion\Core\Access\Decide\TableAccess $access): string
    {
        $parts = [];
        foreach ($access->filters as $filter) {
            $parts[] = $this->printer->expression($filter->forReader($reader->attributes));
        }
        foreach ($reader->policy->carriers($table) as $carrier) {
            $allowed = $reader->allowed($carrier->dimension, $carrier->by, false);
            if (! $allowed->everything) {
                $parts[] =
                    $carrier->column === null
                        ? 'FALSE'
                        : $this->printer->expression($allowed->predicate($carrier->column, $table->columns[$carrier->column]));
            }
        }

        return implode(' AND ', array_map(static fn (string $part): string => count($parts) > 1 ? "({$part})" : $part, $parts));
    }

    /**
     * @return list<array{string, string, string, string, bool}>
     */
    private function privileges(string $path, int $before, int $after): array
    {
        // What is read is told by columns.
        $read = Privilege::Select->bit() | Privilege::Use->bit();
        $found = [];
        foreach ([[$after & ~$before & ~$read, true], [$before & ~$after & ~$read, false]] as [$bits, $gains]) {
            if ($bits !== 0) {
                $names = implode(', ', Privilege::names($bits));
                $found[] = [Shift::PRIVILEGES, $path, $gains ? '' : $names, $gains ? $names : '', $gains];
            }
        }

        return $found;
    }
}
