<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\Refused;
use App\Platform\Models\User;
use App\Platform\Runs\Progress;
use App\Platform\Runs\RunStopped;
use App\Telemetry\Workload\EstateReader;
use App\Tuning\Models\TuningRun;
use Closure;
use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;
use Fulcrion\Core\Text\Quantity;

/**
 * Goes through statistics, layout, rollups, lookups and encodings for some statements, on copies of their tables: does
 * one thing, measures, and keeps it if it pays and every answer stays the same.
 */
final readonly class TuningRunner
{
    /** What a remedy has to save to be kept. */
    private const PAYS = 0.01;

    public function __construct(private Clusters $clusters, private EstateReader $reader, private Changes $changes)
    {
    }

    public function run(TuningRun $run): void
    {
        $run->carryOut(fn (Progress $progress): array => ['state' => $this->tune($run, $progress)]);
    }

    private function tune(TuningRun $run, Progress $progress): string
    {
        $cluster = $run->cluster;
        [$place, $keeper] = $this->place($cluster);
        $home =
            $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a tuning run'))->keeper($cluster) ??
            throw new SourceError("{$cluster->name} is only watched; nothing can be tried for it.");
        $source = $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a tuning run'))->layouts($cluster);
        $there = $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a tuning run'))->layouts($place);
        assert($source !== null && $there !== null);
        $layouts = $this->reader->layouts($cluster);
        $estate = $this->reader->estate($cluster, $layouts);
        $statements = $this->statements($estate, $run, $cluster);
        $chosen = new Estate($layouts, new Workload(array_column($statements, 'use')), $estate->rates, $estate->nowUs);
        $deadline = hrtime(true) + $run->limits['minutes'] * 60_000_000_000;
        $schema = HelperName::schema('tuning', $run->id);
        $stop = $progress->stop();
        $keeper->dropSchema($schema);
        $keeper->makeSchema($schema);
        try {
            $tables = [];
            foreach ($statements as $one) {
                foreach ($one['use']->tables as $use) {
                    $tables[$use->table] = true;
                }
            }
            $copies = [];
            foreach (array_keys($tables) as $number => $table) {
                $progress->checkpoint("copying {$table} to {$place->name}", 0.02);
                $keeper->borrow($home, (string) $table, $copies[(string) $table] = "{$schema}.t{$number}", 1.0, $stop);
            }
            $remedies = new TuningRemedies($source, $keeper, $there, $estate, $chosen, $schema, $copies, $stop);
            $all = array_keys($statements);
            $first = $now = $this->measure($run, $progress, $place, $statements, $remedies->copies, $all, [], 0.05, 0.15, $stop);
            $steps = [self::step('start', 'As it is', 'kept', $statements, $now, '', 0.0)];
            $this->note($run, $steps, $statements, $first, $now);
            $workload = array_values(
                array_map(
                    static fn (array $one): array => ['id' => $one['use']->id, 'executions' => $one['use']->executions],
                    $statements,
                ),
            );
            $rewritten = 0.0;
            $kept = [];
            foreach (array_keys(TuningRemedies::ACTS) as $number => $act) {
                $share = 0.15 + (0.8 * $number) / count(TuningRemedies::ACTS);
                $progress->checkpoint(TuningRemedies::ACTS[$act].': looking for what could be done', $share);
                $list = $remedies->of($act, $workload);
                if ($list === []) {
                    $steps[] = self::step($act, TuningRemedies::ACTS[$act], 'nothing to do', $statements, $now, '', 0.0);
                }
                foreach ($list as $remedy) {
                    $why = match (true) {
                        hrtime(true) > $deadline => "the {$run->limits['minutes']} minutes were over",
                        $rewritten + $remedy->rewritten > $run->limits['gib'] * 1_073_741_824 => 'it would write '.
                            Quantity::bytes($remedy->rewritten).
                            ', more than was left of '.
                            Quantity::bytes($run->limits['gib'] * 1_073_741_824),
                        default => '',
                    };
                    if ($why !== '') {
                        $steps[] = self::step($act, $remedy->title, 'left out', $statements, $now, $why, 0.0);

                        continue;
                    }
                    $progress->checkpoint($remedy->title, $share);
                    [$state, $note, $after] = $this->attempt($run, $progress, $place, $remedy, $remedies, $statements, $now, $share, $stop);
                    if ($state === 'kept') {
                        $rewritten += $remedy->rewritten;
                        $kept[count($steps)] = [$remedy, $now, $after];
                        $now = $after;
                    }
                    $steps[] = self::step(
                        $act,
                        $remedy->title,
                        $state,
                        $statements,
                        $now,
                        $note,
                        $state === 'kept' ? $remedy->rewritten : 0.0,
                    );
                    $this->note($run, $steps, $statements, $first, $now);
                }
            }
            $this->note($run, $this->proposed($run, $progress, $steps, $kept, $statements, $place), $statements, $first, $now);
        } finally {
            $keeper->dropSchema($schema);
        }

        return 'done';
    }

    /**
     * @param  array<int, array{use: StatementUse, sql: string, text: string}>  $statements
     * @param  array<int, Measured>  $now
     * @param  Closure(): bool  $stop
     * @return array{string, string, array<int, Measured>} kept, left out or failed; why; what was measured
     */
    private function attempt(
        TuningRun $run,
        Progress $progress,
        Cluster $place,
        TuningRemedy $remedy,
        TuningRemedies $remedies,
        array $statements,
        array $now,
        float $share,
        Closure $stop,
    ): array {
        try {
            ($remedy->do)();
        } catch (SourceError $error) {
            if ($error->stopped) {
                throw $error;
            }
            ($remedy->undo)();

            return ['failed', $error->getMessage(), $now];
        }
        $touched = array_keys(
            array_filter(
                $statements,
                static fn (array $one): bool => array_intersect(
                    $remedy->tables,
                    array_map(static fn (TableUse $use): string => $use->table, $one['use']->tables),
                ) !== [],
            ),
        );
        $after = $this->measure($run, $progress, $place, $statements, $remedies->copies, $touched, $now, $share, $share + 0.1, $stop);
        $differ = array_filter(
            $touched,
            static fn (int $i): bool => $now[$i]->error === '' &&
                ($after[$i]->error !== '' ||
                    ($now[$i]->digest !== null && $after[$i]->digest !== null && $now[$i]->digest !== $after[$i]->digest)),
        );
        [$before, $then] = [self::week($statements, $now), self::week($statements, $after)];
        if ($differ !== []) {
            ($remedy->undo)();

            return ['failed', count($differ).' answers were not the same or did not come, so it was taken back', $now];
        }
        if ($then > $before * (1 - self::PAYS)) {
            ($remedy->undo)();

            return [
                'left out',
                $then > $before
                    ? 'it made the whole slower by '.Quantity::percent($then / max(1, $before) - 1)
                    : 'it saved less than '.Quantity::percent(self::PAYS),
                $now,
            ];
        }

        return ['kept', 'saves '.Quantity::percent(1 - $then / max(1, $before)), $after];
    }

    /**
     * Asks for what was kept as changes of the cluster, and applies them where that was allowed beforehand.
     *
     * @param  list<array{act: string, title: string, state: string, weekUs: float, sumUs: float, bytes: float, note: string,
     *     rewritten: float, change: int|null}>  $steps
     * @param  array<int, array{TuningRemedy, array<int, Measured>, array<int, Measured>}>  $kept by number of the step
     * @param  array<int, array{use: StatementUse, sql: string, text: string}>  $statements
     * @return list<array{act: string, title: string, state: string, weekUs: float, sumUs: float, bytes: float, note: string,
     *     rewritten: float, change: int|null}>
     */
    private function proposed(TuningRun $run, Progress $progress, array $steps, array $kept, array $statements, Cluster $place): array
    {
        $user = User::query()->whereKey($run->asked_by_id)->whereNull('disabled_at')->first();
        if (! ($user instanceof User)) {
            return $steps;
        }
        foreach ($kept as $number => [$remedy, $before, $after]) {
            $change = $this->changes->propose($run->cluster, null, $remedy->proposal, $user);
            $lines = [];
            foreach ($statements as $i => $one) {
                if ($before[$i] !== $after[$i]) {
                    $lines[] = new ProofLine($one['use']->id, $one['text'], $one['use']->executions, $before[$i], $after[$i]);
                }
            }
            $this->changes->rehearsedElsewhere(
                $change,
                new Proof($lines),
                $run->asked_by,
                "{$place->name}, on whole copies, in tuning run {$run->id}, after the steps before it",
            );
            $step = ['change' => $change->id] + $steps[$number];
            if ($run->limits['apply']) {
                $progress->checkpoint("applying {$change->title}", 0.97);
                try {
                    $this->changes->approve($change->refresh(), $user);
                    $this->changes->apply($change->refresh(), $user, true);
                } catch (Refused $error) {
                    $step['note'] .= "; not applied: {$error->getMessage()}";
                }
            }
            $steps[$number] = $step;
        }

        return array_values($steps);
    }

    /**
     * @return array<int, array{use: StatementUse, sql: string, text: string}>
     */
    private function statements(Estate $estate, TuningRun $run, Cluster $cluster): array
    {
        $found = [];
        foreach ($estate->workload->statements as $statement) {
            if (
                ! in_array($statement->id, $run->statements, true) ||
                str_contains((string) preg_replace("~'[^']*'~", '', $statement->sql), '?')
            ) {
                continue;
            }
            try {
                $sql = Reading::of($statement->sql, $cluster->dialect);
            } catch (SyntaxError) {
                $sql = null;
            }
            if ($sql !== null && $statement->tables !== []) {
                $found[] = ['use' => $statement, 'sql' => $sql, 'text' => (new Fingerprinter($cluster->dialect))->of($sql)->text];
            }
        }

        return $found === []
            ? throw new SourceError('None of the chosen statements can be run again: no run with its values was kept, or it reads nothing.')
            : $found;
    }

    /**
     * @param  array<int, array{use: StatementUse, sql: string, text: string}>  $statements
     * @param  array<string, string>  $copies
     * @param  list<int>  $which
     * @param  array<int, Measured>  $known
     * @param  Closure(): bool  $stop
     * @return array<int, Measured>
     */
    private function measure(
        TuningRun $run,
        Progress $progress,
        Cluster $place,
        array $statements,
        array $copies,
        array $which,
        array $known,
        float $from,
        float $to,
        Closure $stop,
    ): array {
        $runner =
            $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a tuning run'))->rewriting($place) ??
            throw new SourceError("{$place->name} cannot run statements for a rehearsal.");
        foreach ($which as $n => $i) {
            $progress->checkpoint('measuring statement '.($n + 1).' of '.count($which), $from + (($to - $from) * $n) / count($which));
            $sql = $statements[$i]['sql'];
            try {
                foreach ($copies as $table => $copy) {
                    $sql = Reading::with($sql, $table, $copy, $statements[$i]['use']->schema, $run->cluster->dialect);
                }
                $known[$i] = $runner->measureWithout($sql, $statements[$i]['use']->schema, null, $stop);
            } catch (SourceError $error) {
                if ($stop()) {
                    throw new RunStopped();
                }
                $known[$i] = Measured::failed($error->getMessage());
            }
        }
        ksort($known);

        return $known;
    }

    /**
     * @param  array<int, array{use: StatementUse, sql: string, text: string}>  $statements
     * @param  array<int, Measured>  $measured
     * @return array{act: string, title: string, state: string, weekUs: float, sumUs: float, bytes: float, note: string, rewritten: float,
     *     change: int|null}
     */
    private static function step(
        string $act,
        string $title,
        string $state,
        array $statements,
        array $measured,
        string $note,
        float $rewritten,
    ): array {
        return [
            'act' => $act,
            'title' => $title,
            'state' => $state,
            'weekUs' => self::week($statements, $measured),
            'sumUs' => (float) array_sum(array_map(static fn (Measured $m): int => $m->us(), $measured)),
            'bytes' => (float) array_sum(array_map(static fn (Measured $m): int => $m->bytesRead, $measured)),
            'note' => $note,
            'rewritten' => $rewritten,
            'change' => null,
        ];
    }

    /**
     * Time of a week, each statement as often as it runs.
     *
     * @param  array<int, array{use: StatementUse, sql: string, text: string}>  $statements
     * @param  array<int, Measured>  $measured
     */
    private static function week(array $statements, array $measured): float
    {
        $sum = 0.0;
        foreach ($statements as $i => $one) {
            $sum += $one['use']->executions * $measured[$i]->us();
        }

        return $sum;
    }

    /**
     * @param  list<array{act: string, title: string, state: string, weekUs: float, sumUs: float, bytes: float, note: string,
     *     rewritten: float, change: int|null}>  $steps
     * @param  array<int, array{use: StatementUse, sql: string, text: string}>  $statements
     * @param  array<int, Measured>  $first
     * @param  array<int, Measured>  $now
     */
    private function note(TuningRun $run, array $steps, array $statements, array $first, array $now): void
    {
        $lines = [];
        foreach ($statements as $i => $one) {
            $lines[] = [
                'id' => $one['use']->id,
                'text' => $one['text'],
                'executions' => $one['use']->executions,
                'beforeUs' => $first[$i]->us(),
                'afterUs' => $now[$i]->us(),
                'beforeBytes' => $first[$i]->bytesRead,
                'afterBytes' => $now[$i]->bytesRead,
                'equal' => $first[$i]->digest === null || $now[$i]->digest === null ? null : $first[$i]->digest === $now[$i]->digest,
                'error' => $now[$i]->error,
            ];
        }
        $run->update(['steps' => ['steps' => $steps, 'lines' => $lines]]);
    }

    /**
     * @return array{Cluster, \App\Estate\Connectors\TableKeeper}
     */
    private function place(Cluster $cluster): array
    {
        /** @var list<Cluster> $candidates */
        $candidates = Cluster::query()->where('role', 'rehearsal')->where('id', '!=', $cluster->id)->orderBy('id')->get()->all();
        foreach ([...$candidates, $cluster] as $candidate) {
            $keeper = $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a tuning run'))->keeper($candidate);
            if ($keeper !== null) {
                return [$candidate, $keeper];
            }
        }
        throw new SourceError('There is no cluster anything could be tried on.');
    }
}
