<?php

declare(strict_types=1);

namespace App\Sessions\Application;

use App\Estate\Connectors\LockReading;
use App\Estate\Connectors\ServerSession;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Sessions\LockChain;
use Fulcrion\Core\Sessions\LockChains;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Text\Quantity;

/**
 * Who waits for whom on a server, in words; statements without their values.
 */
final readonly class LockView
{
    /** @var list<LockChain> */
    public array $chains;

    private Fingerprinter $fingerprinter;

    public function __construct(public Cluster $cluster, public LockReading $reading)
    {
        $this->chains = LockChains::of($reading->waits);
        $this->fingerprinter = new Fingerprinter($cluster->dialect);
    }

    public function session(int $id): ?ServerSession
    {
        return $this->reading->sessions[$id] ?? null;
    }

    /** What a session runs or ran last; null where that is not known. */
    public function statement(int $id): ?Fingerprint
    {
        $sql = $this->session($id)->sql ?? '';

        return $sql === '' ? null : $this->fingerprinter->of($sql);
    }

    public function sentence(): string
    {
        $waiting = array_sum(array_map(static fn (LockChain $one): int => count($one->blocked()), $this->chains));
        $name = $this->cluster->name;
        if ($waiting === 0) {
            return $this->reading->gaps === []
                ? "Nobody waits for a lock on {$name} at this moment"
                : rtrim($this->reading->gaps[0]->problem, '.');
        }
        $first = $this->chains[0];

        $one = count($this->chains) === 1;
        $who = match (true) {
            $waiting === 1 => "One session of {$name} waits",
            $one => "{$waiting} sessions of {$name} all wait",
            default => "{$waiting} sessions of {$name} wait",
        };

        return $who.
            ($one
                ? ' behind '.$this->holder($first)
                : ' for '.count($this->chains).' others; most of them stand behind '.$this->holder($first));
    }

    /** A session at the beginning of a chain, and what it is doing. */
    public function holder(LockChain $chain): string
    {
        $session = $this->session($chain->session);
        $who = "session {$chain->session}".($session === null || $session->user === '' ? '' : " of {$session->user}");

        return match (true) {
            $chain->circular => "{$who}, which waits for itself over others",
            $session === null => "{$who}, which has ended meanwhile",
            $session->idle && $session->transactionUs !== null => "{$who}, idle for ".Quantity::duration($session->sinceUs).
                ' in an open transaction',
            $session->idle => "{$who}, idle for ".Quantity::duration($session->sinceUs),
            default => "{$who}, at work for ".Quantity::duration($session->sinceUs),
        };
    }

    /** The longest anybody of a chain has waited. */
    public static function longestUs(LockChain $chain): int
    {
        return max([0, ...array_map(
            static fn (LockChain $one): int => max($one->wait->waitedUs ?? 0, self::longestUs($one)),
            $chain->behind,
        )]);
    }
}
