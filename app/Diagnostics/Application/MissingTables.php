<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Catalog\CatalogObject;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use App\Telemetry\Store\ErrorTexts;
use DateTimeZone;
use Fulcrion\Core\Statements\Symptoms\Counted;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use stdClass;

/**
 * Tables and schemas that statements ask for and the server no longer has: renamed, moved or dropped. One finding a schema.
 */
final readonly class MissingTables
{
    private const LEAST = 3;

    private const RECENT_US = 86_400_000_000;

    private const TABLE = "~^error 1146: Table '([^'.]+)\.([^']+)' doesn't exist~";

    private const SCHEMA = "~^error 1049: Unknown database '([^']+)'~";

    public function __construct(private Clusters $clusters, private DefinitionChanges $definitions)
    {
    }

    /**
     * Whether a statement fails mostly because of these.
     *
     * @param  array<string, int>  $messages text => times, the most frequent first
     */
    public static function explains(array $messages): bool
    {
        return self::missing((string) array_key_first($messages)) !== null;
    }

    /**
     * @param  array<string, Counted>  $load by fingerprint
     * @return list<Reported>
     */
    public function of(Cluster $cluster, array $load): array
    {
        $bySchema = [];
        $failing = array_filter($load, static fn (Counted $one): bool => $one->failed > 0);
        foreach ([...self::texts($cluster, 'error 1146: %'), ...self::texts($cluster, 'error 1049: %')] as [$statement, $text, $times]) {
            $names = self::missing($text);
            if ($names !== null && isset($failing[$statement])) {
                [$schema, $table] = $names;
                $bySchema[$schema]['tables'][$table] = true;
                $bySchema[$schema]['statements'][$statement] = true;
                $bySchema[$schema]['times'] = ($bySchema[$schema]['times'] ?? 0) + $times;
            }
        }
        $bySchema = array_filter($bySchema, static fn (array $one): bool => $one['times'] >= self::LEAST);
        $objects = $bySchema === [] ? [] : $this->objects($cluster);
        $reported = [];
        foreach ($bySchema as $schema => $one) {
            // It may be there again meanwhile.
            $tables = array_values(array_filter(
                array_map(strval(...), array_keys($one['tables'])),
                static fn (string $table): bool => ! isset($objects[strtolower("{$schema}.{$table}")]),
            ));
            if ($tables !== []) {
                $statements = array_map(strval(...), array_keys($one['statements']));
                $reported[] = $this->report($cluster, (string) $schema, $tables, $statements, $one['times'], $objects);
            }
        }

        return $reported;
    }

    /**
     * @param  non-empty-list<string>  $tables
     * @param  list<string>  $statements fingerprints
     * @param  array<string, CatalogObject>  $objects
     */
    private function report(Cluster $cluster, string $schema, array $tables, array $statements, int $times, array $objects): Reported
    {
        $elsewhere = [];
        foreach ($objects as $object) {
            if (in_array(strtolower($object->name), array_map(strtolower(...), $tables), true)) {
                $elsewhere[$object->schema][] = $object->name;
            }
        }
        uasort($elsewhere, static fn (array $a, array $b): int => count($b) <=> count($a));
        $there = array_key_first($elsewhere);
        $hasSchema = array_filter($objects, static fn (CatalogObject $one): bool => $one->schema === $schema) !== [];
        $what = $tables === ['']
            ? "The schema {$schema} is"
            : ($hasSchema || count(Parts::said($tables)) === 1
                ? Str::plural('The table', count($tables)).' '.implode(', ', array_map(
                    static fn (string $table): string => "{$schema}.{$table}",
                    array_slice(Parts::said($tables), 0, 3),
                )).(count($tables) > 3 ? ' and '.(count($tables) - 3).' more' : '').(count($tables) === 1 ? ' is' : ' are')
                : "The schema {$schema} with ".count(Parts::said($tables)).' tables that are asked for is');
        $count = count($statements);
        $evidence = [
            new Evidence('failed runs', Quantity::count($times).' in the last day, as far as the server remembered them'),
            new Evidence('statements', (string) $count),
        ];
        foreach ($elsewhere as $other => $names) {
            $evidence[] = new Evidence('of the same name', implode(', ', array_map(
                static fn (string $name): string => "{$other}.{$name}",
                array_slice($names, 0, 5),
            )));
        }
        foreach ($this->changed($cluster, $schema, $tables) as $row) {
            $evidence[] = LiveDiagnosis::statement(
                'definition changed '.moment((int) $row->at_us, MomentStyle::Minute, new DateTimeZone('UTC')).' UTC'.
                    ($row->user === '' ? '' : " by {$row->user}"),
                $row->text,
            );
        }
        foreach (DB::table('statements')->whereIn('fingerprint', array_slice($statements, 0, 3))->pluck('text') as $text) {
            $evidence[] = LiveDiagnosis::statement('statement that fails', (string) $text);
        }
        $evidence[] = Evidence::remedy($there === null
            ? 'Make what was dropped again, or change the applications that still ask for it.'
            : "Let the applications ask for {$there}, or make views of the old names that read from there.");

        return new Reported(
            'missing-table',
            FindingSubject::item($schema),
            Severity::Act,
            "{$what} not there, and ".($count === 1 ? 'a statement fails' : "{$count} statements fail").' because of it'.
                ($there === null
                    ? ''
                    : "; {$there} has ".(count($elsewhere[$there]) === 1 ? 'a table of that name' : 'tables of these names')),
            $evidence,
            Weight::none(),
            '',
            urgent: true,
        );
    }

    /**
     * @param  list<string>  $tables
     * @return list<stdClass>
     */
    private function changed(Cluster $cluster, string $schema, array $tables): array
    {
        $nowUs = Clock::microseconds();

        return array_slice(
            $this->definitions->between($cluster, $nowUs - self::RECENT_US, $nowUs, Parts::said([$schema, ...$tables])),
            0,
            3,
        );
    }

    /**
     * @return list<array{string, string, int}> fingerprint, text, times
     */
    private static function texts(Cluster $cluster, string $like): array
    {
        $list = [];
        foreach (ErrorTexts::of($cluster, Clock::seconds() - LatestLoad::RECENT_SECONDS, null, $like) as $statement => $texts) {
            foreach ($texts as $text => $times) {
                $list[] = [(string) $statement, (string) $text, $times];
            }
        }

        return $list;
    }

    /**
     * @return array{string, string}|null schema and table; the table is empty where the whole schema is missing
     */
    private static function missing(string $text): ?array
    {
        return match (true) {
            preg_match(self::TABLE, $text, $match) === 1 => [$match[1], $match[2]],
            preg_match(self::SCHEMA, $text, $match) === 1 => [$match[1], ''],
            default => null,
        };
    }

    /**
     * @return array<string, CatalogObject> by schema.table in small letters, as far as the account sees them
     */
    private function objects(Cluster $cluster): array
    {
        try {
            $list = $this->clusters
                ->as(Actor::system(SystemActor::Audit, 'tables that statements ask for'))
                ->catalog($cluster)
                ?->objects() ?? [];
        } catch (SourceError) {
            $list = [];
        }
        $objects = [];
        foreach ($list as $object) {
            $objects[strtolower("{$object->schema}.{$object->name}")] = $object;
        }

        return $objects;
    }
}
