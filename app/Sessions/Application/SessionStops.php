<?php

declare(strict_types=1);

namespace App\Sessions\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\RunningStatement;
use App\Estate\Connectors\SessionSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Text\Quantity;
use PDOException;

/**
 * Cancels statements and ends sessions of live servers for people, and writes down who asked for it.
 */
final readonly class SessionStops
{
    public function __construct(private Clusters $clusters, private Ledger $ledger)
    {
    }

    /**
     * @param  string  $statement fingerprint of what is to be cancelled: by the time somebody presses, it may be another one
     * @return string what was done
     *
     * @throws SourceError where it cannot be done
     */
    public function cancel(User $user, Cluster $cluster, int $session, string $statement): string
    {
        $running = $this->running($cluster, $session);
        $fingerprint = $running === null ? null : (new Fingerprinter($cluster->dialect))->of($running->sql)->id;
        if ($running === null || $fingerprint !== $statement) {
            throw new SourceError(
                $running === null
                    ? "Session {$session} runs nothing any more, so nothing was cancelled."
                    : "Session {$session} has gone on to another statement, so nothing was cancelled.",
            );
        }
        $this->source($cluster)->cancel($session);
        $this->ledger->record($user, 'cancelled a statement', $cluster->name, [
            'session' => $session,
            'of' => $running->user,
            'statement' => $statement,
            'after' => Quantity::duration($running->runningUs),
        ]);

        return "The statement of session {$session} is cancelled.";
    }

    /**
     * @return string what was done
     *
     * @throws SourceError where it cannot be done
     */
    public function end(User $user, Cluster $cluster, int $session): string
    {
        $this->source($cluster)->end($session);
        $this->ledger->record($user, 'ended a session', $cluster->name, ['session' => $session]);

        return "Session {$session} is ended; what it had not committed is rolled back.";
    }

    private function source(Cluster $cluster): SessionSource
    {
        return $this->clusters->as(Actor::system(SystemActor::Sessions, 'a person asked for it'))->sessions($cluster) ??
            throw new SourceError("{$cluster->name} is no live server.");
    }

    private function running(Cluster $cluster, int $session): ?RunningStatement
    {
        try {
            $running = $this->clusters
                ->as(Actor::system(SystemActor::Collector, 'statements that run now'))
                ->statements($cluster)
                ?->running();
        } catch (PDOException) {
            throw new SourceError("{$cluster->name} does not answer, so nothing was cancelled.");
        }
        foreach ($running ?? [] as $one) {
            if ($one->session === $session) {
                return $one;
            }
        }

        return null;
    }
}
