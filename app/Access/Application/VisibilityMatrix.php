<?php

declare(strict_types=1);

namespace App\Access\Application;

use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Change\BlastRadius;
use Fulcrion\Core\Access\Decide\ColumnAccess;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;

/**
 * What people and roles see, counted.
 */
final class VisibilityMatrix
{
    /** @var array<string, array<string, ColumnAccess>> standing and table => columns: who stands alike sees the same */
    private array $seen = [];

    /** @var array<string, string> */
    private array $standings = [];

    public function __construct(private readonly Policy $policy)
    {
    }

    public function standing(string $subject): string
    {
        return $this->standings[$subject] ??= BlastRadius::standingOf($this->policy->reader($subject));
    }

    /**
     * @return array<string, ColumnAccess>
     */
    public function columns(string $subject, TableEntry $table): array
    {
        return $this->seen[$this->standing($subject).$table->path] ??= (new StatementDecider(
            $this->policy,
            $this->policy->reader($subject),
            ObjectPath::parts($table->path)[0],
        ))->columnsOf($table);
    }

    /**
     * @param  list<TableEntry>  $tables
     * @return array<string, int> sight => columns
     */
    public function count(string $subject, array $tables, ?string $column = null): array
    {
        $counts = array_fill_keys(array_map(static fn (Sight $sight): string => $sight->value, Sight::cases()), 0);
        foreach ($tables as $table) {
            foreach ($this->columns($subject, $table) as $name => $access) {
                if ($column === null || $name === $column) {
                    $counts[$access->sight->value]++;
                }
            }
        }

        return $counts;
    }

    /**
     * @param  list<string>  $people
     * @return array{int, int} columns labelled personal, and how many people see the most open of them plainly
     */
    public function personal(array $people): array
    {
        $alike = [];
        foreach ($people as $person) {
            $alike[$this->standing($person)][] = $person;
        }
        $personal = $most = 0;
        foreach ($this->policy->catalog->tables as $table) {
            foreach ($this->policy->labels($table)->columns as $column => $labels) {
                if (
                    array_filter(
                        array_keys($labels),
                        static fn (int|string $key): bool => $key === 'personal' || str_starts_with((string) $key, 'personal/'),
                    ) === []
                ) {
                    continue;
                }
                $personal++;
                $seen = 0;
                foreach ($alike as $group) {
                    $seen += $this->columns($group[0], $table)[$column]->sight === Sight::Visible ? count($group) : 0;
                }
                $most = max($most, $seen);
            }
        }

        return [$personal, $most];
    }

    /**
     * People or roles, those that match words.
     *
     * @return list<string> subjects
     */
    public function subjects(string $by, string $words = ''): array
    {
        $kind = $by === 'roles' ? Kind::Roles : Kind::People;
        $names = [];
        foreach ($this->policy->document->all($kind) as $item) {
            if (
                $words === '' ||
                str_contains(
                    mb_strtolower("{$item->name} {$item->text('title')} ".implode(' ', $item->texts('roles'))),
                    mb_strtolower($words),
                )
            ) {
                $names[] = $by === 'roles' ? Subject::role($item->name) : Subject::person($item->name);
            }
        }
        sort($names);

        return $names;
    }

    /**
     * Who sees a column how, people who see it alike together.
     *
     * @return list<array{access: ColumnAccess, people: list<Item>}> those who see most first
     */
    public function ofColumn(TableEntry $table, string $column): array
    {
        $groups = [];
        foreach ($this->policy->document->all(Kind::People) as $person) {
            $access = $this->columns(Subject::person($person->name), $table)[$column];
            $key = $access->key().implode('|', array_map(strval(...), $access->causes));
            $groups[$key] ??= ['access' => $access, 'people' => []];
            $groups[$key]['people'][] = $person;
        }
        usort(
            $groups,
            static fn (array $a, array $b): int => [$a['access']->sight->rank(), -count($a['people'])] <=> [
                $b['access']->sight->rank(),
                -count($b['people']),
            ],
        );

        return $groups;
    }
}
