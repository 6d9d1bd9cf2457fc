<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Closure;
use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\ColumnOrigin;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;

/**
 * A policy on one day, over one catalog, made ready to decide many times.
 */
final class Policy
{
    /** @var array<string, list<Item>> subject => grants */
    private array $grants = [];

    /** @var array<string, list<Rule>> subject => rules */
    private array $rules = [];

    /** @var array<string, list<string>> subject => objects owned */
    private array $owned = [];

    /** @var array<string, array<string, string>> path => key => value, only labels with effect */
    private array $labels = [];

    /** @var array<string, list<string>> table path => its columns that carry labels of their own */
    private array $labelled = [];

    /** @var array<string, list<Item>> dimension => scopes */
    private array $scopes = [];

    /** @var array<string, array<string, Carrier>> table path => carriers of dimensions by key */
    private array $scoped = [];

    /** @var array<string, list<string>> former name => tables that had it */
    private array $successors = [];

    /** @var array<string, array<string, true>> table => its columns that anything flowed from */
    private array $flowed = [];

    /** @var array<string, TableLabels> */
    private array $tableLabels = [];

    /** @var array<string, array<string, string>> */
    private array $inherited = [];

    /** @var array<string, int> */
    private array $shapes = [];

    /** @var array<string, Reader> */
    private array $readers = [];

    /** @var array<string, ColumnAccess|false> rule, labels => what it makes of a column; false for nothing */
    private array $verdicts = [];

    /**
     * @param  array<string, Hierarchy>  $hierarchies by name, as they are on the day
     * @param  string  $day as 2026-11-30; grants and scopes until an earlier day do not count
     *
     * @throws ConditionError
     */
    public function __construct(
        public readonly Document $document,
        public readonly AccessCatalog $catalog,
        public readonly array $hierarchies,
        public readonly string $day,
    ) {
        foreach ($catalog->tables as $table) {
            foreach ($table->origins as $origin) {
                if ($origin->former) {
                    $this->successors[$origin->path][] = $table->path;
                }
                $this->flowed[$origin->path] = ($this->flowed[$origin->path] ?? []) + array_fill_keys($origin->sources(), true);
            }
        }
        foreach ($document->all(Kind::Grants) as $grant) {
            if ($grant->holds($day)) {
                foreach ($grant->texts('to') as $subject) {
                    $this->grants[$subject][] = $grant;
                }
            }
        }
        foreach ($document->all(Kind::Rules) as $item) {
            if (! $item->flag('off')) {
                $rule = Rule::of($item, $document);
                foreach ($item->texts('for') as $subject) {
                    $this->rules[$subject][] = $rule;
                }
            }
        }
        foreach ($document->all(Kind::Owners) as $path => $owner) {
            $this->owned[$owner->text('owner')][] = (string) $path;
        }
        foreach ($document->all(Kind::Labels) as $label) {
            if (in_array($label->text('state', 'accepted'), ['accepted', ''], true)) {
                $path = $label->text('on');
                $this->labels[$path][$label->text('key')] = $label->text('value');
                if (count(ObjectPath::parts($path)) === 4) {
                    $this->labelled[(string) ObjectPath::parent($path)][] = ObjectPath::parts($path)[3];
                }
            }
        }
        foreach ($document->all(Kind::Scopes) as $scope) {
            if ($scope->holds($day)) {
                $this->scopes[$scope->text('dimension')][] = $scope;
            }
        }
        foreach ($document->all(Kind::Dimensions) as $dimension) {
            foreach ($dimension->map('columns') as $path => $column) {
                $path = strtolower((string) $path);
                $parts = ObjectPath::parts($path);
                if (count($parts) === 4) {
                    $carrier = new Carrier($parts[3], $dimension->name, is_string($column) ? $column : '');
                    $this->scoped[(string) ObjectPath::parent($path)][$carrier->key()] = $carrier;
                }
            }
        }
    }

    /** Of a person or a role; whoever is not known holds what everyone has. */
    public function reader(string $subject): Reader
    {
        // Thousands of readers, each with what it has worked out, would not fit.
        if (count($this->readers) > 64 && ! isset($this->readers[$subject])) {
            $this->readers = [];
        }

        return $this->readers[$subject] ??= $this->makeReader($subject);
    }

    private function makeReader(string $subject): Reader
    {
        [$kind, $name] = Subject::split($subject);
        $roles = $this->document->all(Kind::Roles);
        $person = $kind === 'person' ? $this->document->find(Kind::People, $name) : null;
        $held = RoleClosure::of($roles, $kind === 'role' ? [$name] : $person?->texts('roles') ?? []);
        $subjects = [Subject::EVERYONE => true, $subject => true];
        foreach (array_keys($held) as $role) {
            $subjects[Subject::role((string) $role)] = true;
        }
        $free = static function (Item $item) use ($subjects): bool {
            foreach ($item->texts('except') as $exception) {
                if (isset($subjects[$exception])) {
                    return false;
                }
            }

            return true;
        };
        $grants = $rules = $owned = [];
        foreach (array_keys($subjects) as $one) {
            foreach ($this->grants[$one] ?? [] as $grant) {
                if ($free($grant)) {
                    $grants[$grant->name] = $grant;
                }
            }
            foreach ($this->rules[$one] ?? [] as $rule) {
                if ($free($rule->item)) {
                    $rules[$rule->item->name] = $rule;
                }
            }
            foreach ($this->owned[$one] ?? [] as $path) {
                $owned[$path] = $one;
            }
        }

        return new Reader(
            $this,
            $subject,
            $person?->map('attributes') ?? [],
            $held,
            $subjects,
            array_values($grants),
            array_values($rules),
            $owned,
        );
    }

    /** Who owns an object: named at it or next above. */
    public function ownerOf(string $path): ?string
    {
        $owners = $this->document->all(Kind::Owners);
        foreach (array_reverse(ObjectPath::line($path)) as $place) {
            if (isset($owners[$place])) {
                return $owners[$place]->text('owner');
            }
        }

        return null;
    }

    /**
     * Labels in force on an object: its own, and those of the objects above that it does not replace.
     *
     * @return array<string, string> key => value
     */
    public function labelsOf(string $path): array
    {
        if (isset($this->inherited[$path])) {
            return $this->inherited[$path];
        }
        $parent = ObjectPath::parent($path);
        $labels = ($this->labels[$path] ?? []) + ($parent === null ? [] : $this->labelsOf($parent));
        // Columns are asked for through their tables, which remember them.
        if (count(ObjectPath::parts($path)) < 4) {
            $this->inherited[$path] = $labels;
        }

        return $labels;
    }

    /**
     * @return list<array{string, string, string}> key, value, the object it is inherited from
     */
    public function labelLines(string $path): array
    {
        $lines = [];
        foreach (array_reverse(ObjectPath::line($path)) as $place) {
            foreach ($this->labels[$place] ?? [] as $key => $value) {
                $lines[$key] ??= [$key, $value, $place];
            }
        }

        return array_values($lines);
    }

    public function labels(TableEntry $table): TableLabels
    {
        // A table that others were made of may be asked about with columns it has no more.
        $key = count($table->columns).' '.$table->path;
        if (isset($this->tableLabels[$key])) {
            return $this->tableLabels[$key];
        }
        $own = $this->labelsOf($table->path);
        $columns = $shapes = [];
        $keys = array_fill_keys(array_keys($own), true);
        foreach ($this->labelled[$table->path] ?? [] as $column) {
            if (isset($table->columns[$column])) {
                $columns[$column] = ($this->labels[ObjectPath::child($table->path, $column)] ?? []) + $own;
                $keys += array_fill_keys(array_keys($columns[$column]), true);
            }
        }
        foreach ($columns as $column => $labels) {
            $shapes[$column] = $this->shape($labels);
        }
        ksort($keys);

        return $this->tableLabels[$key] = new TableLabels($own, $this->shape($own), $this->shape([$own, $keys]), $columns, $shapes, $keys);
    }

    /**
     * @param  array<mixed>  $labels
     */
    private function shape(array $labels): int
    {
        ksort($labels);
        $key = (string) json_encode($labels, JSON_INVALID_UTF8_SUBSTITUTE);

        return $this->shapes[$key] ??= count($this->shapes) + 1;
    }

    /** Whether a dimension names a column of a table. */
    public function isScoped(string $table): bool
    {
        return isset($this->scoped[$table]);
    }

    /**
     * What carries dimensions in a table: columns named by dimensions, and columns that hold the values of such ones. A
     * dimension whose column is not there, or did not come along, is carried by no column and closes the table to whoever
     * may not see all of it.
     *
     * @return list<Carrier>
     */
    public function carriers(TableEntry $table): array
    {
        $found = [];
        foreach ($this->scoped[$table->path] ?? [] as $carrier) {
            $there = $carrier->column !== null && isset($table->columns[$carrier->column]);
            $carrier = $there ? $carrier : new Carrier(null, $carrier->dimension, $carrier->by);
            $found[$carrier->key()] = $carrier;
        }
        foreach ($this->origins($table) as $origin) {
            foreach ($origin->path === $table->path ? [] : $this->scoped[$origin->path] ?? [] as $carrier) {
                $carrier = new Carrier(
                    $carrier->column === null ? null : $origin->rowColumn($carrier->column),
                    $carrier->dimension,
                    $carrier->by,
                );
                $found[$carrier->key()] = $carrier;
            }
        }

        return array_values($found);
    }

    /**
     * Tables whose rows flowed into a table, as far as no steward has let it go from them.
     *
     * @return list<ColumnOrigin>
     */
    public function origins(TableEntry $table): array
    {
        if ($table->origins === []) {
            return [];
        }
        $release = $this->document->find(Kind::Releases, $table->path);
        $from = $release?->texts('from') ?? [];
        $found = [];
        foreach ($release !== null && $from === [] ? [] : $table->origins as $origin) {
            if (in_array($origin->path, $from, true)) {
                continue;
            }
            $found[] = $origin;
            foreach ($this->successors[$origin->path] ?? [] as $path) {
                // A table is followed through its names: what is labelled under the new one holds as well.
                if ($path !== $table->path && ! in_array($path, $from, true)) {
                    $found[] = new ColumnOrigin($path, $origin->columns, $origin->conditions, $origin->row);
                }
            }
        }

        return $found;
    }

    /**
     * What a rule makes of columns with the same labels, where that is the same for everybody.
     *
     * @param  Closure(): ?ColumnAccess  $decide
     */
    public function verdict(Rule $rule, int $shape, int $tableShape, Closure $decide): ?ColumnAccess
    {
        $found = $this->verdicts["{$rule->item->name}|{$shape}|{$tableShape}"] ??= $decide() ?? false;

        return $found === false ? null : $found;
    }

    /** The table an origin speaks of; what was known of it where it is not there any more. */
    public function source(ColumnOrigin $origin): TableEntry
    {
        $there = $this->catalog->table($origin->path);
        $columns = $there->columns ?? [];
        foreach (array_keys(($this->flowed[$origin->path] ?? []) + array_fill_keys($origin->sources(), true)) as $column) {
            $columns[$column] ??= ColumnType::of(TypeKind::Text);
        }

        // Origins are flat: what flowed into the source stands beside it.
        return new TableEntry($origin->path, $columns);
    }

    /**
     * @return list<Item>
     */
    public function scopesOf(string $dimension): array
    {
        return $this->scopes[$dimension] ?? [];
    }

    public function hierarchyOf(string $dimension): ?Hierarchy
    {
        return $this->hierarchies[$this->document->find(Kind::Dimensions, $dimension)?->text('hierarchy') ?? ''] ?? null;
    }
}
