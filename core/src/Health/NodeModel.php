<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

use Closure;

/**
 * What each node of a practice cluster did, modelled from the work that was in flight; the formulas and their figures are explained in
 * docs/practice-cluster.md. What a node cannot do in an interval it does in the next one.
 */
final class NodeModel
{
    /** What runs beside statements, as a part of the processors. */
    private const BASE_USER = 0.012;

    private const BASE_SYSTEM = 0.006;

    /** For each second of a statement's processor time the system has so much. */
    private const SYSTEM_SHARE = 0.08;

    /** Logs, in bytes a second. */
    private const BASE_WRITTEN = 1_500_000;

    /** Part of what is read that goes to other nodes. */
    private const EXCHANGED = 0.1;

    private const BASE_NETWORK = 250_000;

    /** Of the memory: what the node has for itself, and what a statement in flight takes. */
    private const BASE_MEMORY = 0.3;

    private const STATEMENT_MEMORY = 0.06;

    private const MOST_MEMORY = 0.97;

    /** Standard deviation of what is not exact, as a part of it. */
    private const NOISE = 0.04;

    /** @var array<int, float> processor seconds still to be done, by node */
    private array $processorLeft = [];

    /** @var array<int, array{float, float}> bytes to read and to write still, by node */
    private array $diskLeft = [];

    /**
     * @param  Closure(string, int, int): float  $noise a number of the standard normal distribution, the same for the same measure, node
     *     and Unix second
     */
    public function __construct(private readonly NodeSet $set, private readonly Closure $noise)
    {
    }

    /**
     * @param  int  $at first second of the interval
     * @param  list<Work>  $works
     * @param  array<int, list<float>>  $shares part of a statement's work on each node, by its number; others' work is spread evenly
     * @return list<NodeUse> one a node
     */
    public function next(int $at, int $seconds, array $works, array $shares): array
    {
        $nodes = count($this->set->names);
        $even = array_fill(0, $nodes, 1 / $nodes);
        $processor = $read = $spilled = array_fill(0, $nodes, 0.0);
        $running = 0.0;
        foreach ($works as $work) {
            $running += $work->runningUs / 1e6;
            $share = $shares[$work->statement] ?? $even;
            // A statement computes as long as its slowest node does, with all processors of it.
            $slowest = max([0.0, ...$share]);
            foreach ($share as $node => $part) {
                $processor[$node] += $work->processorUs / 1e6 * $this->set->shape->cores * ($slowest > 0 ? $part / $slowest : 0.0);
                $read[$node] += $work->bytesRead * $part;
                $spilled[$node] += $work->bytesSpilled * $part;
            }
        }
        $exchanged = self::EXCHANGED * array_sum($read) / $nodes;
        $uses = [];
        for ($node = 0; $node < $nodes; $node++) {
            $uses[] = $this->node($node, $at, $seconds, $processor[$node], $read[$node], $spilled[$node], $exchanged, $running / $seconds);
        }

        return $uses;
    }

    private function node(
        int $node,
        int $at,
        int $seconds,
        float $processor,
        float $read,
        float $spilled,
        float $exchanged,
        float $inFlight,
    ): NodeUse {
        $shape = $this->set->shape;
        $noisy = fn (string $what): float => max(0.0, 1 + self::NOISE * ($this->noise)($what, $node, $at));
        $all = (float) $shape->cores * $seconds;
        $base = self::BASE_USER * $all * $noisy('user');
        $wanted = $processor + ($this->processorLeft[$node] ?? 0.0);
        $system = self::BASE_SYSTEM * $all * $noisy('system');
        $done = min($wanted, ($all - $base - $system) / (1 + self::SYSTEM_SHARE));
        $this->processorLeft[$node] = $wanted - $done;

        // What is spilled is written and read again.
        [$readLeft, $writeLeft] = $this->diskLeft[$node] ?? [0.0, 0.0];
        $toRead = $read + $spilled + $readLeft;
        $toWrite = $spilled + $writeLeft;
        $rate = $shape->diskBytesPerSecond * $this->set->diskShare($node, $at * 1_000_000);
        $logs = self::BASE_WRITTEN * $seconds * $noisy('written');
        $part = $toRead + $toWrite <= 0.0 ? 1.0 : min(1.0, max(0.0, $seconds * $rate - $logs) / ($toRead + $toWrite));
        $this->diskLeft[$node] = [$toRead * (1 - $part), $toWrite * (1 - $part)];
        $disk = min((float) $seconds, ($logs + $part * ($toRead + $toWrite)) / $rate * $noisy('disk'));

        $system += self::SYSTEM_SHARE * $done;
        $idle = max(0.0, $all - $base - $done - $system);
        // One processor waits for the disk where it has nothing else to do.
        $waiting = min($idle, $disk * ($idle / $all));
        $sent = self::BASE_NETWORK * $seconds;

        return new NodeUse(
            $base + $done,
            $system,
            $waiting,
            $idle - $waiting,
            $part * $toRead,
            $part * $toWrite + $logs,
            $disk,
            $exchanged + $sent * $noisy('in'),
            self::EXCHANGED * $read + $sent * $noisy('out'),
            $shape->memoryBytes * min(self::MOST_MEMORY, self::BASE_MEMORY * $noisy('memory') + self::STATEMENT_MEMORY * $inFlight),
        );
    }
}
