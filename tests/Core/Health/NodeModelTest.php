<?php

declare(strict_types=1);

namespace Tests\Core\Health;

use Closure;
use Fulcrion\Core\Health\NodeCondition;
use Fulcrion\Core\Health\NodeModel;
use Fulcrion\Core\Health\NodeSet;
use Fulcrion\Core\Health\NodeShape;
use Fulcrion\Core\Health\NodeUse;
use Fulcrion\Core\Health\Work;
use PHPUnit\Framework\TestCase;

final class NodeModelTest extends TestCase
{
    private const GB = 1_000_000_000;

    /**
     * @param  list<NodeCondition>  $conditions
     * @param  Closure(string, int, int): float|null  $noise
     */
    private function model(array $conditions = [], ?Closure $noise = null, int $nodes = 4): NodeModel
    {
        $names = array_map(static fn (int $node): string => "fern-{$node}", range(1, max(1, $nodes)));

        return new NodeModel(new NodeSet(new NodeShape(16, 2 * self::GB, self::GB, 64 * self::GB), $names, $conditions),
            $noise ?? static fn (): float => 0.0);
    }

    public function test_a_statement_that_lies_evenly_is_work_for_all_nodes_alike(): void
    {
        $uses = $this->model()->next(0, 300, [new Work(1, 60e6, 30e6, 480e9, 0.0)], []);
        foreach ($uses as $use) {
            // Thirty seconds with sixteen processors, beside 1.2% and 0.6% of 4,800 seconds; the system has 8% of it on top.
            self::assertEqualsWithDelta(30 * 16 + 57.6, $use->userSeconds, 1e-9);
            self::assertEqualsWithDelta(28.8 + 0.08 * 480, $use->systemSeconds, 1e-9);
            self::assertEqualsWithDelta(120e9, $use->bytesRead, 1e-3);
            self::assertEqualsWithDelta(450e6, $use->bytesWritten, 1e-3, '1.5 MB of logs a second');
            self::assertEqualsWithDelta(60.225, $use->diskSeconds, 1e-9);
            self::assertEqualsWithDelta(4_800.0, $use->userSeconds + $use->systemSeconds + $use->waitSeconds + $use->idleSeconds, 1e-6);
            // A tenth of what is read goes over, beside 250 kB a second; a fifth of a statement was in flight.
            self::assertEqualsWithDelta(12e9 + 75e6, $use->bytesOut, 1e-3);
            self::assertEqualsWithDelta(12e9 + 75e6, $use->bytesIn, 1e-3);
            self::assertEqualsWithDelta(64e9 * (0.3 + 0.06 * 0.2), $use->memoryBytes, 1.0);
            self::assertGreaterThan(0.0, $use->waitSeconds);
        }
    }

    public function test_a_table_on_one_node_is_work_for_that_node(): void
    {
        $uses = $this->model()->next(0, 300, [new Work(9, 0.0, 10e6, 100e9, 4e9)], [9 => [0.7, 0.1, 0.1, 0.1]]);
        // What is spilled is read again.
        self::assertEqualsWithDelta(0.7 * 104e9, $uses[0]->bytesRead, 1e-3);
        self::assertEqualsWithDelta(0.1 * 104e9, $uses[3]->bytesRead, 1e-3);
        self::assertEqualsWithDelta(104e9, array_sum(array_map(static fn (NodeUse $use): float => $use->bytesRead, $uses)), 1e-3);
        $written = array_sum(array_map(static fn (NodeUse $use): float => $use->bytesWritten, $uses));
        self::assertEqualsWithDelta(4e9 + 4 * 450e6, $written, 1e-3);
        // The slowest computes for all of its time, the others for a seventh of it.
        self::assertEqualsWithDelta(160.0 + 57.6, $uses[0]->userSeconds, 1e-9);
        self::assertEqualsWithDelta(160 / 7 + 57.6, $uses[1]->userSeconds, 1e-9);
    }

    public function test_a_slow_disk_takes_longer_for_the_same_bytes_from_its_moment_on(): void
    {
        $model = $this->model([new NodeCondition(2, 0.5, 300_000_000)]);
        $works = [new Work(1, 0.0, 0.0, 40e9, 0.0)];
        $before = $model->next(0, 300, $works, []);
        $after = $model->next(300, 300, $works, []);
        self::assertSame($before[0]->diskSeconds, $before[2]->diskSeconds);
        self::assertSame($after[0]->bytesRead, $after[2]->bytesRead);
        self::assertEqualsWithDelta(2 * $after[0]->diskSeconds, $after[2]->diskSeconds, 1e-9);
    }

    public function test_what_a_node_cannot_do_at_once_it_does_later_and_none_of_it_is_lost(): void
    {
        $model = $this->model(nodes: 2);
        // Four times what two disks read in five minutes, and twice what the processors compute.
        $read = $busy = 0.0;
        $computed = 0.0;
        $total = 4 * 2 * 2 * self::GB * 300.0;
        for ($i = 0; $i < 12; $i++) {
            foreach ($model->next($i * 300, 300, $i === 0 ? [new Work(1, 0.0, 600e6, $total, 0.0)] : [], []) as $use) {
                $read += $use->bytesRead;
                $busy = max($busy, $use->diskSeconds);
                $computed += $use->userSeconds - 57.6;
                self::assertGreaterThanOrEqual(-1e-9, $use->idleSeconds);
                self::assertLessThanOrEqual(4_800.0 + 1e-6, $use->userSeconds + $use->systemSeconds);
            }
        }
        self::assertEqualsWithDelta($total, $read, 1.0);
        self::assertEqualsWithDelta(300.0, $busy, 1e-6);
        self::assertEqualsWithDelta(600 * 16 * 2, $computed, 1e-6);
    }

    public function test_noise_moves_times_and_no_bytes_of_statements(): void
    {
        $loud = $this->model(noise: static fn (string $what, int $node): float => $node === 1 ? 2.0 : 0.0)
            ->next(0, 300, [new Work(1, 0.0, 0.0, 80e9, 0.0)], []);
        self::assertSame($loud[0]->bytesRead, $loud[1]->bytesRead);
        self::assertEqualsWithDelta(1.08 * $loud[0]->diskSeconds, $loud[1]->diskSeconds, 0.03);
        self::assertEqualsWithDelta(1.08 * $loud[0]->userSeconds, $loud[1]->userSeconds, 1e-9);
    }
}
