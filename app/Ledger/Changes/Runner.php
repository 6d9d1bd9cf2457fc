<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\ReadAt;
use App\Estate\Connectors\SourceError;
use App\Estate\Connectors\TableKeeper;
use App\Estate\Models\Cluster;
use App\Ledger\Events\TableChanged;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Support\Clock;
use Closure;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Fulcrion\Core\Sql\RangeRewrites;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Text\Quantity;
use Throwable;

/**
 * Rehearses, applies and undoes changes. Whatever goes wrong, the table is left as it was: a new table takes the name
 * only when it is whole and holds the same rows.
 */
final readonly class Runner
{
    private const GRACE_US = 7 * 86_400_000_000;

    private const BEAT_US = 2_000_000;

    public function __construct(private Clusters $clusters, private Ledger $ledger, private ChosenStatements $chosen, private ChangeExecutors $executors)
    {
    }

    public function run(Change $change, string $by): void
    {
        $doing = $change->doing;
        try {
            $executor = $this->executors->of($change->kind);
            $tell = fn (string $what, float $share) => $this->tell($change, $what, $share);
            match ($doing) {
                'rehearsing' => $executor === null ? $this->rehearse($change, $by) : $executor->rehearse($change, $by, $tell),
                'applying' => $executor === null ? $this->apply($change, $by) : $executor->apply($change, $by, $tell),
                'undoing' => $executor === null ? $this->undo($change, $by) : $executor->undo($change, $by, $tell),
                default => null,
            };
            $change->update(['doing' => '', 'claim' => null, 'progress' => '', 'stop_asked' => false, 'error' => null]);
            $this->ledger->record(null, ['rehearsing' => 'rehearsed a change', 'applying' => 'applied a change', 'undoing' => 'undid a change'][$doing] ?? $doing, Changes::label($change), ['for' => $by]);
            if ($doing !== 'rehearsing' && $executor === null) {
                event(new TableChanged($change));
            }
        } catch (Throwable $error) {
            $this->fail($change, $doing, $by, $error);
        }
    }

    /** Ends what a killed worker left: half-built tables go, a change that was through is called applied. */
    public function recover(Change $change): void
    {
        $doing = $change->doing;
        $executor = $this->executors->of($change->kind);
        if ($executor !== null) {
            $change->update(['doing' => '', 'claim' => null, 'progress' => '', 'stop_asked' => false, 'error' => $executor->recover($change)] + ($doing === 'applying' ? ['state' => 'failed', 'failed_us' => Clock::microseconds(), 'failed_by' => 'system'] : []));
            $this->ledger->record(null, 'recovered a change', Changes::label($change), ['was' => $doing, 'through' => false]);

            return;
        }
        $keeper = $this->keeper($change->cluster);
        $through = false;
        if ($doing === 'applying') {
            // The swap is one act: if the kept table is there, the new one has the name.
            $through = $change->kind === Change::REBUILD && $change->kept_table !== null && $keeper->has($change->kept_table);
            if ($through) {
                $this->applied($change, $change->approved_by ?? 'system', $keeper);
            } else {
                $this->clear($change, $keeper);
            }
        } elseif ($doing === 'undoing') {
            $this->clear($change, $keeper);
            $through = $change->kind === Change::REBUILD && $change->kept_table !== null && ! $keeper->has($change->kept_table);
            if ($through) {
                $change->update(['state' => 'undone', 'undone_us' => Clock::microseconds(), 'undone_by' => 'system']);
            }
        } else {
            $this->rehearsalKeeper($change->cluster)[1]->dropSchema(self::schema($change));
        }
        $change->update([
            'doing' => '', 'claim' => null, 'progress' => '', 'stop_asked' => false,
            'error' => $through ? null : 'The worker was killed. '.match (true) {
                $doing === 'rehearsing' => 'The rehearsal was cleared away; start it again.',
                $change->kind === Change::REBUILD => 'What it had begun was cleared away: the table is as it was.',
                default => 'Each of its statements was run wholly or not at all; rehearse it again to see what is left to do.',
            },
        ] + ($doing === 'applying' && ! $through ? ['state' => 'failed', 'failed_us' => Clock::microseconds(), 'failed_by' => 'system'] : []));
        $this->ledger->record(null, 'recovered a change', Changes::label($change), ['was' => $doing, 'through' => $through]);
    }

    private function rehearse(Change $change, string $by): void
    {
        [$place, $keeper] = $this->rehearsalKeeper($change->cluster);
        $home = $this->keeper($change->cluster);
        $statements = $this->statements($change);
        $schema = self::schema($change);
        $stop = $this->beat($change);
        $keeper->dropSchema($schema);
        try {
            $keeper->makeSchema($schema);
            [$before, $after] = ["{$schema}.as_it_is", "{$schema}.as_it_would_be"];
            $this->tell($change, "copying {$change->object} to {$place->name}", 0.02);
            $rows = $keeper->borrow($home, $change->object, $before, $change->copy_share, $stop);
            if ($rows === 0) {
                throw new SourceError("{$change->object} is empty, so there is nothing to compare. Fill it, or drop the change.");
            }
            if ($change->kind === Change::REBUILD) {
                $definition = TableDefinition::fromArray((array) $change->expected['definition']);
                $columns = $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change'))->layouts($place)?->layout($before)->statistics ?? [];
                foreach (Steps::build($definition, $before, $after, array_map(strval(...), array_keys($columns))) as $i => $sql) {
                    $this->tell($change, StepWords::of($sql), 0.1 + 0.1 * $i);
                    $keeper->apply($sql, $stop);
                }
            } elseif ($change->kind === Change::REWRITE) {
                $after = $before;
            } else {
                // Of the copy and not of the table itself, which may hold other rows by now.
                $keeper->borrow($keeper, $before, $after, 1.0, $stop);
                foreach ($change->kind === Change::PREPARE ? array_filter($change->sealed_inverse, static fn (string $sql): bool => str_starts_with($sql, 'CREATE')) : [] as $sql) {
                    // What the change takes away has to be there before.
                    $keeper->apply(Steps::elsewhere($sql, $change->object, $before, $schema), $stop);
                }
                foreach ($change->kind === Change::PREPARE ? array_filter($change->sealed_steps, static fn (string $sql): bool => str_starts_with($sql, 'CREATE')) : $change->sealed_steps as $sql) {
                    $this->tell($change, StepWords::of($sql), 0.2);
                    $keeper->apply(Steps::elsewhere($sql, $change->object, $after, $schema), $stop);
                }
            }
            $stored = $change->kind === Change::REWRITE ? [] : $this->stored($this->bytes($place, $before), $this->bytes($place, $after));
            $at = new ReadAt(Clock::microseconds(), $keeper->versions());
            $lines = [];
            foreach ($statements as $i => $statement) {
                $this->tell($change, 'statement '.($i + 1).' of '.count($statements).', before and after, cold and warm', 0.3 + 0.65 * $i / count($statements));
                $one = $this->measure($keeper, Reading::with($statement['sql'], $change->object, $before, $statement['schema'], $change->cluster->dialect), $statement['schema'], $stop, $at);
                $sql = $change->kind === Change::REWRITE && $statement['id'] === $change->expected['statement'] ? $this->rewritten($change, $statement['sql']) : $statement['sql'];
                $other = $this->measure($keeper, Reading::with($sql, $change->object, $after, $statement['schema'], $change->cluster->dialect), $statement['schema'], $stop, $at);
                $lines[] = new ProofLine($statement['id'], $statement['text'], $statement['executions'], $one, $other);
            }
            $this->keep($change, 'rehearsal', new Proof($lines), $by, $place, [
                'where' => "{$place->name}, on ".($change->copy_share < 1 ? 'a sampled copy of '.Quantity::percent($change->copy_share).' of the chunks' : 'a whole copy'),
                'rows' => Quantity::count($rows),
                'each statement' => 'once cold (nothing in memory), once warm; other tables as they are on '.$place->name,
            ] + $stored);
            $change->update(['state' => 'rehearsed', 'rehearsed_us' => Clock::microseconds(), 'rehearsed_by' => $by]);
        } finally {
            $keeper->dropSchema($schema);
        }
    }

    private function apply(Change $change, string $by): void
    {
        $keeper = $this->keeper($change->cluster);
        $stop = $this->beat($change);
        $statements = $this->statements($change);
        $course = new Course($keeper, $change);
        $before = $this->all($change, $keeper, $statements, $stop, 'before', 0.02, 0.3, $course->before);
        $bytes = $this->bytes($change->cluster, $change->object);
        $change->update(['version_before' => $keeper->version($change->object)]);
        $steps = $change->sealed_steps;
        if ($change->kind === Change::REBUILD) {
            $keeper->apply(Steps::drop($change->builtTable()), $stop);
            // Loads wait while the rows are copied, so none of theirs can be lost.
            $keeper->holding($change->object, function () use ($change, $keeper, $steps, $stop, $course): void {
                foreach ($steps as $i => $sql) {
                    $this->tell($change, StepWords::of($sql), 0.3 + 0.35 * $i / count($steps), $i);
                    if ($i === count($steps) - 1) {
                        $old = $keeper->checksum($change->object);
                        $new = $keeper->checksum($change->builtTable());
                        $change->update(['checksum_before' => $old, 'checksum_after' => $new]);
                        if ($old !== $new) {
                            throw new SourceError("The new table does not hold the same rows ({$old}, {$new}).");
                        }
                        $course->swapping();
                    }
                    $keeper->apply($sql, $stop);
                }
            });
        } else {
            $maintains = $change->kind === Change::MAINTAIN;
            $old = $maintains ? $keeper->checksum($change->object) : null;
            foreach ($steps as $i => $sql) {
                $this->tell($change, StepWords::of($sql), 0.3 + 0.35 * $i / count($steps), $i);
                $keeper->apply($sql, $stop);
            }
            $new = $maintains ? $keeper->checksum($change->object) : null;
            $change->update(['checksum_before' => $old, 'checksum_after' => $new]);
            if ($maintains && $change->sealed_inverse === ['revert']) {
                $version = $change->version_before;
                $change->update(['sealed_inverse' => $keeper->version($change->object) === $version + 1 ? ['MAINTAIN TABLE '.Steps::path($change->object)." WITH (act = revert, version = {$version})"] : []]);
            }
        }
        $this->applied($change, $by, $keeper);
        $course->through();
        $after = $this->all($change, $keeper, $statements, $stop, 'after', 0.65, $course->again === null ? 0.98 : 0.85, $course->after);
        $answers = $before;
        if ($course->again !== null) {
            // Rows came in between: what the table answered is asked again, of the very rows the new figures are of.
            $asked = array_map(static fn (array $one): array => ['sql' => Reading::with($one['sql'], $change->object, $course->asked, $one['schema'], $change->cluster->dialect)] + $one, $statements);
            $answers = $this->all($change, $keeper, $asked, $stop, 'as before', 0.85, 0.98, $course->again);
        }
        $lines = [];
        foreach ($statements as $i => $statement) {
            $lines[] = new ProofLine($statement['id'], $statement['text'], $statement['executions'], $before[$i]->answering($answers[$i]), $after[$i]);
        }
        $this->keep($change, 'applied', new Proof($lines), $by, $change->cluster, [
            'where' => "{$change->cluster->name}, on the table itself",
            'rows' => Quantity::count($this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change'))->layouts($change->cluster)?->layout($change->object)?->rows() ?? 0),
            'each statement' => 'once cold (nothing in memory), once warm, right before and right after',
            'contents' => $change->checksum_before === null ? 'not touched' : ($change->checksum_before === $change->checksum_after ? "equal, checksum {$change->checksum_after}" : 'rows came in meanwhile'),
        ] + $course->words() + $this->stored($bytes, $this->bytes($change->cluster, $change->object)));
    }

    private function bytes(Cluster $cluster, string $table): int
    {
        $layout = $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change'))->layouts($cluster)?->layout($table);

        return ($layout?->storedBytes() ?? 0) * ($layout->rowFactor ?? 1);
    }

    /**
     * @return array<string, string> a condition of the proof, where a change of size is worth telling
     */
    private function stored(int $before, int $after): array
    {
        return $before === $after || $before === 0 ? [] : ['stored' => Quantity::bytes($before).' before, '.Quantity::bytes($after).' after ('.($after < $before ? Quantity::percent(1 - $after / $before).' less' : Quantity::percent($after / $before - 1).' more').')'];
    }

    private function applied(Change $change, string $by, TableKeeper $keeper): void
    {
        $now = Clock::microseconds();
        $change->update(['state' => 'applied', 'applied_us' => $now, 'applied_by' => $by, 'version_after' => $keeper->version($change->object), 'grace_until_us' => $change->kind === Change::REBUILD ? $now + self::GRACE_US : null]);
    }

    private function undo(Change $change, string $by): void
    {
        $keeper = $this->keeper($change->cluster);
        $stop = $this->beat($change);
        if ($change->kind !== Change::REBUILD) {
            foreach ($change->sealed_inverse as $sql) {
                $this->tell($change, StepWords::of($sql), 0.5);
                $keeper->apply($sql, $stop);
            }
        } else {
            $keeper->holding($change->object, function () use ($change, $keeper, $stop): void {
                $kept = (string) $change->kept_table;
                $back = $kept;
                if (! $keeper->has($kept) || $keeper->version($change->object) !== $change->version_after) {
                    // Rows came, or the old table is gone: its layout is made again from the rows there are now.
                    $back = "{$change->object}__back_{$change->id}";
                    $keeper->apply(Steps::drop($back), $stop);
                    $definition = TableDefinition::fromArray((array) $change->expected['before']);
                    $columns = $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change'))->layouts($change->cluster)?->layout($change->object)->statistics ?? [];
                    foreach (Steps::build($definition, $change->object, $back, array_map(strval(...), array_keys($columns))) as $sql) {
                        $this->tell($change, StepWords::of($sql), 0.4);
                        $keeper->apply($sql, $stop);
                    }
                }
                $this->tell($change, 'comparing the contents', 0.7);
                [$now, $then] = [$keeper->checksum($change->object), $keeper->checksum($back)];
                if ($now !== $then) {
                    throw new SourceError("The old layout does not hold the same rows ({$now}, {$then}). Nothing was changed.");
                }
                $change->update(['checksum_after' => $then]);
                $undone = "{$change->object}__undone_{$change->id}";
                $keeper->apply(Steps::swap($change->object, $undone, $back), $stop);
                $keeper->apply(Steps::drop($undone), $stop);
                if ($back !== $kept) {
                    $keeper->apply(Steps::drop($kept), $stop);
                }
            });
        }
        $change->update(['state' => 'undone', 'undone_us' => Clock::microseconds(), 'undone_by' => $by, 'grace_until_us' => null]);
        $change->finding?->update(['state' => 'open', 'changed_us' => Clock::microseconds(), 'solved_us' => null]);
    }

    private function fail(Change $change, string $doing, string $by, Throwable $error): void
    {
        $stopped = $error instanceof SourceError && $error->stopped;
        $what = $error instanceof SourceError || $error instanceof SyntaxError ? $error->getMessage() : 'An error nobody foresaw: '.$error->getMessage();
        if (! $error instanceof SourceError && ! $error instanceof SyntaxError) {
            report($error);
        }
        $kept = '';
        try {
            if ($doing !== 'rehearsing' && $this->executors->of($change->kind) === null) {
                $this->clear($change, $this->keeper($change->cluster));
                $kept = $change->state === 'applied' && $doing === 'applying' ? ' The change itself was through; only its proof is missing.' : ' The table is as it was.';
            }
        } catch (Throwable $other) {
            $kept = ' Clearing up failed too: '.$other->getMessage();
        }
        $through = $change->state === 'applied' && $doing === 'applying';
        $change->update(['doing' => '', 'claim' => null, 'progress' => '', 'stop_asked' => false, 'error' => ($stopped ? 'Stopped by hand.' : rtrim($what)).$kept]
            + ($doing === 'applying' && ! $through ? ['state' => $stopped ? 'approved' : 'failed', 'failed_us' => Clock::microseconds(), 'failed_by' => $by] : []));
        $this->ledger->record(null, $stopped ? "stopped {$doing}" : "failed {$doing}", Changes::label($change), ['for' => $by, 'error' => mb_strcut($what, 0, 300)]);
    }

    /** Takes away what was half built. */
    private function clear(Change $change, TableKeeper $keeper): void
    {
        foreach (["{$change->object}__new_{$change->id}", "{$change->object}__back_{$change->id}", "{$change->object}__undone_{$change->id}"] as $table) {
            if ($keeper->has($table)) {
                $keeper->apply(Steps::drop($table), static fn (): bool => false);
            }
        }
    }

    /**
     * @return list<array{id: string, text: string, sql: string, schema: string, executions: float}>
     */
    private function statements(Change $change): array
    {
        $statements = $this->chosen->of($change);
        if ($statements === []) {
            throw new SourceError('No statement is chosen to measure by. Choose at least one.');
        }

        return $statements;
    }

    /**
     * @param  list<array{id: string, text: string, sql: string, schema: string, executions: float}>  $statements
     * @param  Closure(): bool  $stop
     * @return list<Measured>
     */
    private function all(Change $change, TableKeeper $keeper, array $statements, Closure $stop, string $when, float $from, float $to, ReadAt $at): array
    {
        $all = [];
        foreach ($statements as $i => $statement) {
            $this->tell($change, 'statement '.($i + 1).' of '.count($statements).", {$when} the change, cold and warm", $from + ($to - $from) * $i / count($statements));
            $all[] = $this->measure($keeper, $statement['sql'], $statement['schema'], $stop, $at);
        }

        return $all;
    }

    private function measure(TableKeeper $keeper, string $sql, string $schema, Closure $stop, ReadAt $at): Measured
    {
        try {
            return $keeper->measure($sql, $schema, $stop, $at);
        } catch (SourceError $error) {
            // A statement that fails is shown in the proof; being stopped ends the whole.
            if ($stop()) {
                throw $error;
            }

            return Measured::failed($error->getMessage());
        }
    }

    private function rewritten(Change $change, string $sql): string
    {
        $types = [];
        foreach ($this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change'))->layouts($change->cluster)?->layout($change->object)?->definition->columns ?? [] as $column) {
            $types[$column->name] = $column->type->kind->value;
        }

        return RangeRewrites::statement($sql, $types, $change->cluster->dialect) ?? $sql;
    }

    /**
     * @param  Cluster  $place where the statements were run
     * @param  array<string, string>  $conditions
     */
    private function keep(Change $change, string $kind, Proof $proof, string $by, Cluster $place, array $conditions): void
    {
        $copies = [self::schema($change).'.as_it_is', self::schema($change).'.as_it_would_be', $change->builtTable(), (string) $change->kept_table];
        $differences = [];
        foreach ($proof->lines as $i => $line) {
            $difference = $line->difference()?->toArray();
            if ($difference !== null) {
                // A copy is as closed as the table it was made of.
                $difference['tables'] = array_values(array_unique(array_map(static fn (string $table): string => in_array($table, $copies, true) ? $change->object : $table, $difference['tables'])));
                $differences[$i] = $difference + ['place' => $place->id];
            }
        }
        ProofRecord::query()->create(($differences === [] ? [] : ['differences' => $differences]) + [
            'change_id' => $change->id, 'kind' => $kind, 'made_us' => Clock::microseconds(), 'made_by' => $by, 'conditions' => $conditions, 'measured' => ProofRecord::pack($proof),
            'sentence' => $proof->sentence(), 'factor' => $proof->factor(), 'holds' => $proof->holds(),
        ]);
    }

    private function tell(Change $change, string $progress, float $share, int $step = 0): void
    {
        $change->update(['progress' => mb_strcut($progress, 0, 300), 'done_share' => $share, 'step' => $step, 'heartbeat_us' => Clock::microseconds()]);
    }

    /**
     * Shows that the worker lives, and asks whether it should stop.
     *
     * @return Closure(): bool
     */
    private function beat(Change $change): Closure
    {
        $last = 0;
        $stop = false;

        return static function () use ($change, &$last, &$stop): bool {
            $now = (int) (hrtime(true) / 1000);
            if ($now - $last > self::BEAT_US) {
                $last = $now;
                Change::query()->whereKey($change->id)->update(['heartbeat_us' => Clock::microseconds()]);
                $stop = (bool) Change::query()->whereKey($change->id)->value('stop_asked');
            }

            return $stop;
        };
    }

    private function keeper(Cluster $cluster): TableKeeper
    {
        return $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change'))->keeper($cluster) ?? throw new SourceError("Changes cannot be run on {$cluster->name}: it is only watched. Run the statements there yourself.");
    }

    /**
     * @return array{Cluster, TableKeeper}
     */
    private function rehearsalKeeper(Cluster $cluster): array
    {
        /** @var list<Cluster> $candidates */
        $candidates = Cluster::query()->where('role', 'rehearsal')->where('id', '!=', $cluster->id)->orderBy('id')->get()->all();
        foreach ($candidates as $candidate) {
            $keeper = $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change'))->keeper($candidate);
            if ($keeper !== null) {
                return [$candidate, $keeper];
            }
        }

        return [$cluster, $this->keeper($cluster)];
    }

    private static function schema(Change $change): string
    {
        return "rehearsal_{$change->id}";
    }
}
