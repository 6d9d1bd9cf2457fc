<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Platform\Support\Clock;
use App\Platform\Support\Sql;
use App\Telemetry\Store\ErrorTexts;
use Fulcrion\Core\Statements\Symptoms\Counted;
use Fulcrion\Core\Statements\Symptoms\SymptomKind;
use Fulcrion\Core\Statements\Symptoms\Symptoms;
use Fulcrion\Core\Text\Quantity;

/**
 * Statements that read without an index, keep temporary tables on disk or fail, by what the server counted.
 */
final readonly class CounterFindings
{
    /** Of each kind; the heaviest ones. */
    private const MOST = 12;

    /** Time a week from which a statement that reads without an index is to be acted on. */
    private const HEAVY_US = 30_000_000;

    /**
     * @param  array<string, Counted>  $load by fingerprint
     * @return list<Reported>
     */
    public function of(Cluster $cluster, array $load): array
    {
        $found = [];
        foreach ($load as $id => $counted) {
            foreach (Symptoms::of($counted) as $kind) {
                if (count($found[$kind->value] ?? []) < self::MOST) {
                    $found[$kind->value][$id] = $counted;
                }
            }
        }
        $ids = array_values(array_unique(array_map(strval(...), array_merge(...array_map(array_keys(...), array_values($found))))));
        $weekUs = LatestLoad::weekUs($cluster, $ids);
        $messages = ErrorTexts::of(
            $cluster,
            Clock::seconds() - LatestLoad::RECENT_SECONDS,
            array_map(strval(...), array_keys($found[SymptomKind::Fails->value] ?? [])),
        );
        $reported = [];
        foreach ($found as $kind => $statements) {
            foreach ($statements as $id => $counted) {
                $said = $messages[$id] ?? [];
                // A table that is not there is one finding, however many statements ask for it.
                if ($kind === SymptomKind::Fails->value && MissingTables::explains($said)) {
                    continue;
                }
                $reported[] = self::report(SymptomKind::from($kind), (string) $id, $counted, $weekUs[$id] ?? 0.0, $said);
            }
        }

        return $reported;
    }

    /**
     * @param  array<string, int>  $messages text => times
     */
    private static function report(SymptomKind $kind, string $id, Counted $counted, float $weekUs, array $messages): Reported
    {
        [$problem, $evidence, $remedy] = match ($kind) {
            SymptomKind::ReadsWithoutIndex => self::withoutIndex($counted),
            SymptomKind::TemporaryTablesOnDisk => self::onDisk($counted),
            SymptomKind::Fails => self::failing($counted, $messages),
        };

        return new Reported(
            $kind->value,
            FindingSubject::statement($id),
            Severity::of($kind === SymptomKind::Fails || $weekUs >= self::HEAVY_US),
            $problem.': '.Sql::line($counted->text, 120),
            [...$evidence, LiveDiagnosis::statement('statement', $counted->text), Evidence::remedy($remedy)],
            Weight::of($weekUs, WeightUnit::QueryTime),
            '',
            urgent: $kind === SymptomKind::Fails,
        );
    }

    /**
     * @return array{string, list<Evidence>, string}
     */
    private static function withoutIndex(Counted $counted): array
    {
        return [
            'Reads '.Quantity::count(round($counted->examinedEach())).' rows a run without an index, '.
                Quantity::count(round($counted->examinedForOne())).' for each it gives',
            [
                new Evidence('runs without an index', Quantity::count($counted->unindexed).' of '.
                    Quantity::count($counted->executions).' when it ran last'),
                new Evidence('rows looked at in a run', Quantity::count(round($counted->examinedEach()))),
                new Evidence('mean duration', Quantity::duration($counted->meanUs())),
            ],
            'Look at its plan and at the page Indexes, which says which index would help and tries it on a copy.',
        ];
    }

    /**
     * @return array{string, list<Evidence>, string}
     */
    private static function onDisk(Counted $counted): array
    {
        return [
            'Writes '.Quantity::digits($counted->tmpDisk / $counted->executions).' temporary '.
                ($counted->tmpDisk === $counted->executions ? 'table' : 'tables').' to disk in each run',
            [
                new Evidence('temporary tables on disk', Quantity::count($counted->tmpDisk).' in '.
                    Quantity::count($counted->executions).' runs when it ran last'),
                new Evidence('mean duration', Quantity::duration($counted->meanUs())),
            ],
            'Group or sort by fewer and shorter columns, and leave long texts out of what is grouped: texts of the kind TEXT and BLOB '
                .'always go to disk. Where rows are many, tmp_memory_table_size and max_heap_table_size of the session decide.',
        ];
    }

    /**
     * @param  array<string, int>  $messages text => times
     * @return array{string, list<Evidence>, string}
     */
    private static function failing(Counted $counted, array $messages): array
    {
        $all = $counted->failed >= $counted->executions;
        $evidence = [];
        foreach (array_slice($messages, 0, 3, true) as $text => $times) {
            $evidence[] = new Evidence('what the server said', "{$text} (".Quantity::count($times).' in the last day, as far as it '
                .'remembered them)');
        }

        return [
            ($all ? 'Always fails' : 'Fails in '.Quantity::percent($counted->failed / $counted->executions).' of its runs').
                ($messages === [] ? '' : ', with “'.rtrim(Sql::line((string) array_key_first($messages), 120), '.').'”'),
            [
                new Evidence('failed', Quantity::count($counted->failed).' of '.Quantity::count($counted->executions).
                    ' runs when it ran last'),
                ...$evidence,
            ],
            'The text of the error says what to correct; users and programs that send it are on the page of the statement.',
        ];
    }
}
