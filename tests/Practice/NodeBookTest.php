<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Health\NodeCondition;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;
use PHPUnit\Framework\TestCase;

/**
 * How nodes are called and what is wrong with some.
 */
final class NodeBookTest extends TestCase
{
    private Warehouse $warehouse;

    protected function setUp(): void
    {
        $root = sys_get_temp_dir().'/fulcrion-nodes-'.bin2hex(random_bytes(4));
        $this->warehouse = Warehouse::create($root, 'Fernhill', 12, new HardwareProfile(8, 1, 32, 500, 700));
    }

    protected function tearDown(): void
    {
        $this->warehouse->destroy();
    }

    public function test_without_a_book_nodes_are_called_like_their_cluster_and_all_are_well(): void
    {
        $set = NodeBook::read($this->warehouse);
        self::assertSame(['fernhill-01', 'fernhill-12', 12], [$set->names[0], $set->names[11], count($set->names)]);
        self::assertSame([8, 500, 700, 32], [$set->shape->cores, $set->shape->diskBytesPerSecond, $set->shape->networkBytesPerSecond,
            $set->shape->memoryBytes]);
        self::assertSame(1.0, $set->diskShare(3, PHP_INT_MAX));
    }

    public function test_what_is_written_is_read(): void
    {
        NodeBook::write($this->warehouse, 'fern', [new NodeCondition(6, 0.5, 1_000), new NodeCondition(6, 1.0, 2_000),
            new NodeCondition(2, 0.25, 5_000)]);
        $set = NodeBook::read($this->warehouse);
        self::assertSame('fern-07', $set->names[6]);
        self::assertEquals([new NodeCondition(6, 0.5, 1_000), new NodeCondition(6, 1.0, 2_000), new NodeCondition(2, 0.25, 5_000)],
            $set->conditions);
        // Slow from its moment on, until it is mended; the others are not.
        self::assertSame([1.0, 0.5, 0.5, 1.0, 1.0], array_map(static fn (int $at): float => $set->diskShare(6, $at),
            [999, 1_000, 1_999, 2_000, 9_000]));
        self::assertSame([1.0, 0.25, 1.0], [$set->diskShare(2, 4_999), $set->diskShare(2, 5_000), $set->diskShare(0, 9_000)]);
    }

    public function test_a_broken_book_is_said_to_be_one(): void
    {
        file_put_contents("{$this->warehouse->root}/nodes.json", '{"prefix": ');
        $this->expectException(WarehouseError::class);
        $this->expectExceptionMessage('nodes.json is no JSON');
        NodeBook::read($this->warehouse);
    }
}
