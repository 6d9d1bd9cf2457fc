<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Text\Quantity;

/**
 * How a cluster was at a moment.
 */
final readonly class ClusterLine
{
    /** A probe that takes so many times its idle time is felt. */
    private const STRUGGLES = 2.0;

    private const FULL = 0.9;

    /**
     * @param  list<NodeMark>  $nodes
     * @param  float|null  $inFlight mean number of executions at work; null where nothing is known
     * @param  float|null  $fullness part of the file systems that is used
     * @param  float|null  $probe times as long as when idle
     * @param  int  $urgent findings that ask for somebody at once
     * @param  bool  $isReached whether what keeps its readings answers
     * @param  float|null  $backupSeconds how old the newest good backup is, of the schema where it is oldest; null where none is known
     * @param  string  $backupOf that schema; empty where all are of one age
     * @param  int  $ringing how many alerts ring, one on each host
     */
    public function __construct(
        public Cluster $cluster,
        public array $nodes,
        public ?float $inFlight,
        public float $waiting,
        public ?float $fullness,
        public ?float $probe,
        public int $urgent,
        public int $findings,
        public bool $isReached = true,
        public int $ringing = 0,
        public ?float $backupSeconds = null,
        public string $backupOf = '',
    ) {
    }

    public function mark(): string
    {
        return match (true) {
            $this->cluster->failing_since !== null, $this->cluster->isSilent() => 'act',
            ! $this->isReached => 'act',
            $this->isKnown() === false => 'no data',
            $this->struggles(), $this->urgent > 0 => 'act',
            $this->odd() !== null, ($this->fullness ?? 0.0) >= self::FULL, $this->findings > 0 => 'watch',
            default => 'calm',
        };
    }

    /** The one thing to be said of it. */
    public function word(): string
    {
        return match (true) {
            $this->cluster->failing_since !== null => 'cannot be read',
            $this->cluster->isSilent() => 'not read for a while',
            ! $this->isReached => 'its readings cannot be reached',
            $this->isKnown() === false => 'nothing is known of this moment',
            $this->struggles() => 'struggles: the probe takes '.Quantity::digits($this->probe ?? 1.0).' times its idle time',
            $this->odd() !== null => "{$this->odd()->name} is slower than its neighbours",
            ($this->fullness ?? 0.0) >= self::FULL => Quantity::percent($this->fullness).' full',
            $this->urgent > 0 => $this->urgent.' '.($this->urgent === 1 ? 'finding asks' : 'findings ask').' for somebody',
            $this->findings > 0 => $this->findings.' open '.($this->findings === 1 ? 'finding' : 'findings'),
            default => 'all is calm',
        };
    }

    public function isKnown(): bool
    {
        return $this->inFlight !== null || array_filter($this->nodes, static fn (NodeMark $one): bool => $one->processor !== null) !== [];
    }

    private function struggles(): bool
    {
        return $this->probe !== null && $this->probe >= self::STRUGGLES;
    }

    private function odd(): ?NodeMark
    {
        foreach ($this->nodes as $node) {
            if ($node->isOdd) {
                return $node;
            }
        }

        return null;
    }
}
