<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Provisioning;

use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Change\BlastRadius;
use Fulcrion\Core\Access\Decide\Masking;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Reader;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * A policy in the words of a MariaDB server: CREATE ROLE, GRANT, REVOKE and views that mask and filter.
 *
 * The server adds up what the roles of a user allow and knows neither denies nor rules. So people who stand alike get one
 * role of their own with exactly what is left to them, and nothing else; a table of which they see a part becomes a view
 * with their name behind it.
 */
final readonly class MariaDbScript
{
    /** Roles and views of ours begin so; others are never touched. */
    public const PREFIX = 'guard_';

    private const MARK = 'written as ';

    private Printer $printer;

    public function __construct(private Policy $policy, private string $cluster, private string $key)
    {
        $this->printer = new Printer(Dialect::MariaDb);
    }

    /**
     * @return array<string, ProvisionedRole> by name
     *
     * @throws ConditionError
     * @throws SyntaxError
     */
    public function roles(): array
    {
        $tables = array_values(
            array_filter($this->policy->catalog->tables, fn (TableEntry $table): bool => ObjectPath::within($table->path, $this->cluster)),
        );
        $classes = [];
        foreach ($this->policy->document->all(Kind::People) as $person) {
            $classes[BlastRadius::standingOf($this->policy->reader(Subject::person($person->name)))][] = $person->name;
        }
        $roles = [];
        foreach ($classes as $digest => $people) {
            sort($people);
            $role = $this->role($this->policy->reader(Subject::person($people[0])), (string) $digest, $people, $tables);
            if ($role->grants !== []) {
                $roles[$role->name] = $role;
            }
        }
        ksort($roles);

        return $roles;
    }

    /**
     * What cannot be said in the words of the server.
     *
     * @return list<string>
     */
    public function limits(): array
    {
        // Giving others a default role takes the right to write the server's own tables, which nobody here should have.
        $limits = ['Each account takes its role up with SET ROLE; it can make that its own default with SET DEFAULT ROLE.'];
        $scoped = array_filter(
            array_keys($this->policy->catalog->tables),
            fn (int|string $path): bool => ObjectPath::within((string) $path, $this->cluster) && $this->policy->isScoped((string) $path),
        );
        if ($scoped !== []) {
            $limits[] =
                'Value scopes are written as the rows allowed in detail: the server trims and never refuses, and has no level for totals.';
        }
        foreach ($this->policy->document->all(Kind::Grants) as $grant) {
            if (
                $grant->text('until') !== '' &&
                (ObjectPath::within($this->cluster, $grant->text('on')) || ObjectPath::within($grant->text('on'), $this->cluster))
            ) {
                $limits[] =
                    'Days on which grants end are not known to the server: write the policy out again after '.$grant->text('until').'.';
            }
        }

        return array_values(array_unique($limits));
    }

    /**
     * @param  list<string>  $people
     * @param  list<TableEntry>  $tables
     *
     * @throws ConditionError
     * @throws SyntaxError
     */
    private function role(Reader $reader, string $digest, array $people, array $tables): ProvisionedRole
    {
        $held = array_keys(array_filter($reader->roles, static fn (?string $through): bool => $through === null));
        // Names are cut so that views named after them stay below 64 characters.
        $name =
            self::PREFIX.
            substr(
                (string) preg_replace(
                    '~[^a-z0-9]+~',
                    '_',
                    strtolower(implode('_', $held === [] ? [$people[0]] : array_map(strval(...), $held))),
                ),
                0,
                16,
            ).
            '_'.
            substr($digest, 0, 5);
        $grants = $views = [];
        foreach ($tables as $table) {
            [$cluster, $schema, $object] = ObjectPath::parts($table->path);
            $access = $reader->table($table);
            $seen = (new StatementDecider($this->policy, $reader, $cluster, $schema, Dialect::MariaDb))->columnsOf($table);
            $columns = array_map(
                strval(...),
                array_keys(array_filter($seen, static fn ($one): bool => $one->sight !== Sight::Hidden && $one->sight !== Sight::Denied)),
            );
            if ($columns === []) {
                continue;
            }
            $path = $this->printer->path([$schema, $object]);
            $whole = count($columns) === count($table->columns);
            $decision = (new StatementDecider(
                $this->trimming(),
                $this->trimming()->reader($reader->subject),
                $cluster,
                $schema,
                Dialect::MariaDb,
                new Masking(Dialect::MariaDb, $this->key),
            ))->decide('SELECT '.implode(', ', array_map($this->printer->name(...), $columns)).' FROM '.$path);
            if ($decision->rewritten === null) {
                continue;
            }
            if ($whole && $decision->rewritten === $decision->sql) {
                $also = array_intersect(['insert', 'update', 'delete'], Privilege::names($access->privileges));
                $line = strtoupper(implode(', ', ['select', ...$also]))." ON {$path}";
            } else {
                $view = $this->printer->path([$schema, self::PREFIX.substr($object, 0, 34).'_'.substr($name, strlen(self::PREFIX))]);
                // The server keeps a view in words of its own; a mark in it tells whether it still is what was written.
                $views[$view] =
                    "SELECT * FROM ({$decision->rewritten}) AS seen WHERE '".
                    self::MARK.
                    substr(hash('xxh128', $decision->rewritten), 0, 16).
                    "' <> ''";
                $line = "SELECT ON {$view}";
            }
            $grants[$line] = $line;
        }

        return new ProvisionedRole($name, $people, $grants, $views);
    }

    /**
     * The server cannot refuse by values, so scopes that refuse trim.
     *
     * @throws ConditionError
     */
    private function trimming(): Policy
    {
        $document = $this->policy->document;
        foreach ($document->all(Kind::Scopes) as $scope) {
            $item = \Fulcrion\Core\Access\Policy\Item::of(Kind::Scopes, $scope->name, ['mode' => 'trim'] + $scope->fields);
            if ($item instanceof \Fulcrion\Core\Access\Policy\Item) {
                $document = $document->with($item);
            }
        }

        return $document->all(Kind::Scopes) === []
            ? $this->policy
            : new Policy($document, $this->policy->catalog, $this->policy->hierarchies, $this->policy->day);
    }

    private static function mark(string $text): ?string
    {
        return preg_match('~'.self::MARK.'[0-9a-f]{16}~', $text, $found) === 1 ? $found[0] : null;
    }

    /**
     * The statements that lead from what is there to what should be.
     *
     * @param  array<string, ProvisionedRole>  $from what the server has, of ours
     * @param  array<string, ProvisionedRole>  $to
     * @param  array<string, list<string>>  $accounts person => accounts of that name, as 'ann'@'%'
     * @return list<string>
     */
    public static function statements(array $from, array $to, array $accounts): array
    {
        $sql = [];
        foreach ($to as $name => $role) {
            if (! isset($from[$name])) {
                $sql[] = "CREATE ROLE IF NOT EXISTS `{$name}`";
            }
            foreach ($role->views as $view => $text) {
                if (self::mark($from[$name]->views[$view] ?? '') !== self::mark($text)) {
                    $sql[] = "CREATE OR REPLACE ALGORITHM=TEMPTABLE SQL SECURITY DEFINER VIEW {$view} AS {$text}";
                }
            }
            $old = $from[$name]->grants ?? [];
            foreach (array_diff_key($old, $role->grants) as $line) {
                $sql[] = "REVOKE {$line} FROM `{$name}`";
            }
            foreach (array_diff_key($role->grants, $old) as $line) {
                $sql[] = "GRANT {$line} TO `{$name}`";
            }
            $before = $from[$name]->people ?? [];
            foreach (array_diff($before, $role->people) as $person) {
                foreach ($accounts[$person] ?? [] as $account) {
                    $sql[] = "REVOKE `{$name}` FROM {$account}";
                }
            }
            foreach (array_diff($role->people, $before) as $person) {
                foreach ($accounts[$person] ?? [] as $account) {
                    $sql[] = "GRANT `{$name}` TO {$account}";
                }
            }
        }
        foreach ($from as $name => $role) {
            foreach (array_diff_key($role->views, $to[$name]->views ?? []) as $view => $_) {
                $sql[] = "DROP VIEW IF EXISTS {$view}";
            }
            if (! isset($to[$name])) {
                $sql[] = "DROP ROLE IF EXISTS `{$name}`";
            }
        }

        return $sql;
    }
}
