<?php

declare(strict_types=1);

namespace App\Sessions\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Support\Clock;
use App\Sessions\Models\DeadlockRecord;
use DateTimeZone;
use Fulcrion\Core\Sessions\LockChain;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Str;
use PDOException;

/**
 * Looks at the sessions of a live server again and again: who holds others up, deadlocks, and a server that does not answer
 * become findings.
 */
final readonly class SessionWatch
{
    public const SOURCE = 'sessions';

    public const REACH = 'reach';

    public const MISSING = 'missing';

    /** Shorter waits come and go in any busy server. */
    private const HELD_UP_US = 10_000_000;

    private const DOWN_SECONDS = 30;

    private const RECENT_US = 86_400_000_000;

    public function __construct(private Clusters $clusters, private Findings $findings, private Deadlocks $deadlocks)
    {
    }

    public function look(Cluster $cluster): void
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Collector, 'sessions that wait'))->sessions($cluster);
        if ($source === null) {
            return;
        }
        try {
            $view = new LockView($cluster, $source->waiting());
            $deadlock = $source->deadlock();
        } catch (PDOException) {
            $this->findings->reconcile($cluster, self::REACH, $this->unreachable($cluster));

            return;
        }
        if ($deadlock !== null) {
            $this->deadlocks->keep($cluster, $deadlock);
        }
        $this->findings->reconcile($cluster, self::REACH, []);
        $this->findings->reconcile($cluster, self::SOURCE, [...$this->heldUp($view), ...$this->dead($cluster)]);
        $this->findings->reconcile($cluster, self::MISSING, $this->missing($cluster));
    }

    /**
     * What would be told if the server were set up for it, perhaps until it was started again.
     *
     * @return list<Reported>
     */
    private function missing(Cluster $cluster): array
    {
        $missing = $this->clusters
            ->as(Actor::system(SystemActor::Collector, 'what a server does not tell'))
            ->statements($cluster)
            ?->check() ?? [];
        if ($missing === []) {
            return [];
        }
        $count = count($missing);
        $evidence = [];
        foreach ($missing as $one) {
            $evidence[] = new Evidence('missing', $one->problem);
            $evidence[] = Evidence::remedy($one->remedy);
            if ($one->keeps !== '') {
                $evidence[] = new Evidence('kept over a restart by', $one->keeps, EvidenceKind::Remedy);
            }
        }

        return [
            new Reported(
                'not-told',
                FindingSubject::item($cluster->name),
                Severity::Watch,
                "{$cluster->name} does not tell all that could be watched: ".
                    ($count === 1 ? 'one thing is' : "{$count} things are").' missing or switched off',
                $evidence,
                Weight::none(),
                '',
            ),
        ];
    }

    /**
     * @return list<Reported>
     */
    private function unreachable(Cluster $cluster): array
    {
        $since = $cluster->failing_since;
        if ($since === null || Clock::seconds() - $since->getTimestamp() < self::DOWN_SECONDS) {
            return [];
        }

        return [
            new Reported(
                'unreachable',
                FindingSubject::item($cluster->name),
                Severity::Act,
                "{$cluster->name} cannot be read since ".moment($since, zone: new DateTimeZone('UTC')).
                    ' UTC; nothing is known of what runs there',
                [
                    new Evidence('what the server, or the way to it, said', (string) $cluster->last_error),
                    Evidence::remedy('Check that the server runs, then the connection on the page of the cluster. Reading goes on as soon '
                        .'as it answers.'),
                ],
                Weight::none(),
                '',
                urgent: true,
            ),
        ];
    }

    /**
     * @return list<Reported>
     */
    private function heldUp(LockView $view): array
    {
        $reported = [];
        foreach ($view->chains as $chain) {
            $longestUs = LockView::longestUs($chain);
            if ($longestUs < self::HELD_UP_US) {
                continue;
            }
            $table = $chain->tables()[0] ?? $view->cluster->name;
            $count = count($chain->blocked());
            $idle = $view->session($chain->session)?->idle === true;
            // One finding a table, whoever holds it up most.
            $reported[$table] ??= new Reported(
                'held-up',
                FindingSubject::item($table),
                Severity::Act,
                ucfirst($view->holder($chain)).($idle ? ', holds up ' : ' holds up ').
                    ($count === 1 ? 'another session' : "{$count} others").', the longest for '.Quantity::duration($longestUs),
                [
                    ...$this->evidence($view, $chain),
                    Evidence::remedy($idle
                        ? 'End the session, and let its application commit sooner: a transaction that is left open keeps its locks.'
                        : 'Cancel its statement, or let it end; then make it touch fewer rows at a time.'),
                ],
                Weight::none(),
                '',
                urgent: true,
            );
        }

        return array_values($reported);
    }

    /**
     * @return list<Evidence>
     */
    private function evidence(LockView $view, LockChain $chain): array
    {
        $session = $view->session($chain->session);
        $evidence = [];
        if ($session !== null) {
            $evidence[] = new Evidence('who holds up', trim("{$session->user} from {$session->clientHost}"));
            if ($session->transactionUs !== null) {
                $evidence[] = new Evidence(
                    'its transaction',
                    'open for '.Quantity::duration($session->transactionUs).', '.Quantity::count($session->rowsLocked).' '.
                        Str::plural('row', $session->rowsLocked).' locked, '.Quantity::count($session->rowsChanged).' changed',
                );
            }
        }
        $own = $view->statement($chain->session);
        if ($own !== null) {
            $evidence[] = new Evidence($session?->idle === true ? 'what it ran last' : 'what it runs', $own->text, EvidenceKind::Statement);
        }
        foreach (array_slice($chain->blocked(), 0, 3) as $waiting) {
            $statement = $view->statement($waiting);
            if ($statement !== null) {
                $evidence[] = new Evidence("session {$waiting} waits with", $statement->text, EvidenceKind::Statement);
            }
        }

        return $evidence;
    }

    /**
     * @return list<Reported>
     */
    private function dead(Cluster $cluster): array
    {
        $byTables = [];
        foreach ($this->deadlocks->of($cluster, Clock::microseconds() - self::RECENT_US) as $record) {
            $byTables[Parts::first(implode(', ', $record->tables()), $cluster->name)][] = $record;
        }
        $reported = [];
        foreach ($byTables as $tables => $records) {
            /** @var non-empty-list<DeadlockRecord> $records newest first */
            $count = count($records);
            $reported[] = new Reported(
                'deadlock',
                FindingSubject::item("{$tables}"),
                Severity::Act,
                ($count === 1 ? 'A deadlock' : "{$count} deadlocks")." on {$tables} in the last 24 hours, the last one at ".
                    $records[0]->server_time.' by the clock of the server',
                [
                    ...array_map(
                        static fn (array $side): Evidence => new Evidence(
                            "{$side['user']}, session {$side['session']}".($side['victim'] ? ', was rolled back' : ''),
                            $side['text'],
                            EvidenceKind::Statement,
                        ),
                        $records[0]->sides,
                    ),
                    Evidence::remedy('Let both touch rows and tables in the same order, keep their transactions short, and try again what '
                        .'was rolled back.'),
                ],
                Weight::none(),
                '',
                urgent: true,
            );
        }

        return $reported;
    }
}
