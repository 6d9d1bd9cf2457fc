<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Outcome;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use PHPUnit\Framework\TestCase;

abstract class WarehouseTestCase extends TestCase
{
    protected const NOW = 1_774_000_000_000_000;

    protected string $root;

    protected Warehouse $warehouse;

    protected Engine $engine;

    protected function setUp(): void
    {
        $this->root = sys_get_temp_dir().'/fulcrion-warehouse-'.bin2hex(random_bytes(4));
        $this->warehouse = Warehouse::create($this->root, 'Test', 4, new HardwareProfile(2, 1000, 1_000_000, 1_000_000, 1_000_000, 10));
        $this->engine = new Engine($this->warehouse);
        $this->sql('CREATE SCHEMA s');
    }

    protected function tearDown(): void
    {
        $this->warehouse->destroy();
    }

    protected function sql(string $sql, ?Limits $limits = null): Outcome
    {
        return $this->engine->run($sql, new Session('s', 'tester', self::NOW), $limits ?? $this->limits());
    }

    protected function limits(int $seconds = 30, int $rows = 100_000, ?\Closure $cancelled = null, ?\Closure $clock = null): Limits
    {
        return new Limits($seconds, $rows, $cancelled, $clock ?? static fn (): int => (int) hrtime(true));
    }

    /**
     * @return list<list<mixed>>
     */
    protected function rows(string $sql): array
    {
        return $this->sql($sql)->rows;
    }

    protected function planOf(string $sql): Plan
    {
        return $this->sql($sql)->plan ?? self::fail('no plan');
    }

    /**
     * @return list<PlanStep>
     */
    protected function steps(Plan $plan, StepKind $kind): array
    {
        return array_values(array_filter($plan->steps(), static fn (PlanStep $step): bool => $step->kind === $kind));
    }

    /** A table of consecutive numbers with some columns made of them. */
    protected function numbers(string $name, int $count, string $options): void
    {
        $this->sql("CREATE TABLE {$name} (n bigint NOT NULL, k bigint, word text, day date) {$options}");
        foreach (array_chunk(range(0, $count - 1), 500) as $part) {
            $this->sql(
                "INSERT INTO {$name} VALUES ".
                    implode(
                        ', ',
                        array_map(
                            static fn (int $n): string => "({$n}, ".
                                $n % 10 .
                                ", 'w".
                                $n % 7 .
                                "', DATE '2026-01-01' + INTERVAL ".
                                intdiv($n, 100).
                                ' DAY)',
                            $part,
                        ),
                    ),
            );
        }
    }
}
