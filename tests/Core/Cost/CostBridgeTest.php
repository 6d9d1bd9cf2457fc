<?php

declare(strict_types=1);

namespace Tests\Core\Cost;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\CostBridge;
use Fulcrion\Core\Usage\UsageBridge;
use Fulcrion\Core\Usage\Used;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Why a cost changed.
 */
final class CostBridgeTest extends TestCase
{
    /**
     * @return iterable<string, array{string, string, array<string, array{int, int}>, array<string, array{int, int}>, list<string>}>
     */
    public static function cases(): iterable
    {
        // Cost before and after, use before and after (executions, amount); new, gone, executions, each, price.
        yield 'nothing' => ['0', '0', [], [], ['0.00', '0.00', '0.00', '0.00', '0.00']];
        yield 'as it was' => ['10', '10', ['a' => [5, 100]], ['a' => [5, 100]], ['0.00', '0.00', '0.00', '0.00', '0.00']];
        yield 'twice as often' => ['10', '20', ['a' => [5, 100]], ['a' => [10, 200]], ['0.00', '0.00', '10.00', '0.00', '0.00']];
        yield 'twice each time' => ['10', '20', ['a' => [5, 100]], ['a' => [5, 200]], ['0.00', '0.00', '0.00', '10.00', '0.00']];
        yield 'twice the price' => ['10', '20', ['a' => [5, 100]], ['a' => [5, 100]], ['0.00', '0.00', '0.00', '0.00', '10.00']];
        yield 'half as often at twice the price' => ['10', '10', ['a' => [4, 100]], ['a' => [2, 50]],
            ['0.00', '0.00', '-5.00', '0.00', '5.00']];
        yield 'one came and one went' => ['12', '15', ['a' => [1, 60], 'b' => [1, 60]], ['a' => [1, 60], 'c' => [3, 90]],
            ['9.00', '-6.00', '0.00', '0.00', '0.00']];
        yield 'nothing before' => ['0', '7', [], ['a' => [1, 5]], ['7.00', '0.00', '0.00', '0.00', '0.00']];
        yield 'nothing any more' => ['7', '0', ['a' => [1, 5]], [], ['0.00', '-7.00', '0.00', '0.00', '0.00']];
        yield 'cents that are left over go to the price' => ['0.01', '0.01', ['a' => [1, 3]], ['b' => [1, 3]],
            ['0.01', '-0.01', '0.00', '0.00', '0.00']];
        yield 'thirds' => ['1', '1', ['a' => [1, 3]], ['a' => [1, 1], 'b' => [1, 1], 'c' => [1, 1]],
            ['0.67', '0.00', '0.00', '-0.67', '0.00']];
    }

    /**
     * @param  array<string, array{int, int}>  $use
     * @return array<string, Used>
     */
    private static function used(array $use): array
    {
        return array_map(static fn (array $one): Used => new Used(...$one), $use);
    }

    /**
     * @param  array<string, array{int, int}>  $before
     * @param  array<string, array{int, int}>  $after
     * @param  list<string>  $parts
     */
    #[DataProvider('cases')]
    public function test_worked_by_hand(string $costBefore, string $costAfter, array $before, array $after, array $parts): void
    {
        $use = UsageBridge::of(self::used($before), self::used($after));
        $bridge = CostBridge::of(BigDecimal::of($costBefore), BigDecimal::of($costAfter), $use);
        self::assertSame($parts, array_map(strval(...), array_values($bridge->parts())));
        // The other way round the change is the opposite.
        $back = CostBridge::of(
            BigDecimal::of($costAfter),
            BigDecimal::of($costBefore),
            UsageBridge::of(self::used($after), self::used($before)),
        );
        self::assertTrue($back->change()->isEqualTo($bridge->change()->negated()));
        self::assertTrue($bridge->plus($back)->change()->isZero());
        self::assertEquals($bridge, CostBridge::none()->plus($bridge));
    }

    public function test_the_parts_are_the_change_to_the_cent(): void
    {
        $random = new Randomizer(new Mt19937(31));
        for ($round = 0; $round < 1_000; $round++) {
            $use = [[], []];
            foreach ($use as $i => $_) {
                for ($n = $random->getInt(0, 12); $n > 0; $n--) {
                    $use[$i]['s'.$random->getInt(1, 15)] = [$random->getInt(1, 500), $random->getInt(0, 10 ** 12)];
                }
            }
            [$before, $after] = [
                BigDecimal::ofUnscaledValue($random->getInt(0, 10 ** 8), 2), BigDecimal::ofUnscaledValue($random->getInt(0, 10 ** 8), 2),
            ];
            $bridge = CostBridge::of($before, $after, UsageBridge::of(self::used($use[0]), self::used($use[1])));
            self::assertTrue($bridge->change()->isEqualTo($after->minus($before)));
            foreach ($bridge->parts() as $part) {
                self::assertSame(2, $part->getScale());
            }
            self::assertFalse($bridge->gone->isPositive());
        }
    }
}
