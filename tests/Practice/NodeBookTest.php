<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Health\NodeCondition;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Paths;
use Fulcrion\Practice\Storage\SpaceReader;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\TableWriter;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;
use PHPUnit\Framework\TestCase;

/**
 * How nodes of a practice cluster are set, and what takes its space: against the files themselves.
 */
final class NodeBookTest extends TestCase
{
    private const NODES = 4;

    private const FACTOR = 1_000;

    private Warehouse $warehouse;

    private string $root;

    protected function setUp(): void
    {
        $this->root = sys_get_temp_dir().'/fulcrion-nodes-'.bin2hex(random_bytes(4));
        $this->warehouse = Warehouse::create($this->root, 'Barn', self::NODES, new HardwareProfile(rowFactor: self::FACTOR));
        $this->warehouse->createSchema('s');
    }

    protected function tearDown(): void
    {
        $this->warehouse->destroy();
    }

    public function test_what_is_set_stays_set_and_everything_else_stays_as_it_was(): void
    {
        $before = NodeBook::settings($this->warehouse);
        self::assertSame(['barn-01', 'barn-02', 'barn-03', 'barn-04'], array_keys($before));
        NodeBook::write($this->warehouse, 'barn', [new NodeCondition(1, 0.5, 7)]);
        NodeBook::set($this->warehouse, 'barn-02', 'vm.swappiness', '60');
        NodeBook::setStorageBytes($this->warehouse, 5_000);
        $after = NodeBook::settings(Warehouse::open($this->root));
        self::assertSame('60', $after['barn-02']['vm.swappiness']);
        $after['barn-02']['vm.swappiness'] = $before['barn-02']['vm.swappiness'];
        self::assertEquals($before, $after);
        self::assertSame(0.5, NodeBook::read($this->warehouse)->diskShare(1, 8), 'a slow disk is not mended by it');
        self::assertSame(5_000, NodeBook::storageBytes($this->warehouse));
        self::assertSame(["{$this->root}/nodes.json"], Paths::matching("{$this->root}/nodes.json*"),
            'nothing half written is left');
    }

    public function test_what_is_not_there_cannot_be_set(): void
    {
        foreach ([['barn-05', 'vm.swappiness'], ['barn-01', 'no.such'], ['', 'vm.swappiness'], ['fern-01', 'vm.swappiness']] as [$host,
            $name]) {
            try {
                NodeBook::set($this->warehouse, $host, $name, '1');
                self::fail("{$name} of {$host} was set");
            } catch (WarehouseError $error) {
                self::assertStringContainsString($name, $error->getMessage());
            }
        }
        self::assertNull(NodeBook::storageBytes($this->warehouse));
        file_put_contents("{$this->root}/nodes.json", '{half');
        $this->expectException(WarehouseError::class);
        NodeBook::settings($this->warehouse);
    }

    public function test_what_takes_space_is_what_the_files_take(): void
    {
        $plain = $this->table('plain', Distribution::even());
        $copied = $this->table('copied', Distribution::copy());
        $this->write($plain, 1, 400);
        $this->write($copied, 1, 400);
        $parts = $this->parts();
        self::assertSame($this->bytes($plain) * self::FACTOR, $parts['s.plain']);
        self::assertSame($this->bytes($copied) * self::FACTOR * self::NODES, $parts['s.copied'], 'a copy on each node');
        self::assertCount(2, $parts);
    }

    public function test_old_versions_take_what_only_they_need(): void
    {
        $table = $this->table('grown', Distribution::copy());
        $this->write($table, 1, 100);
        $files = $this->files($table);
        $this->write($table, 101, 200);
        self::assertArrayNotHasKey('old versions of s.grown', $this->parts(), 'what was added to is needed by both');
        // Rewritten: the current version has files of its own.
        $base = $table->manifest();
        $copies = [];
        foreach ($base->chunks as $chunk) {
            $file = 'c9-'.count($copies).'.parquet';
            copy($table->file($chunk), dirname($table->file($chunk))."/{$file}");
            $copies[] = new Chunk($file, $chunk->node, $chunk->partition, $chunk->rows, $chunk->bytes, $chunk->zones);
        }
        $table->publish(new Manifest($base->version + 1, 9, $base->definition, $copies, $base->rowsChanged));
        $parts = $this->parts();
        self::assertSame($parts['s.grown'], $parts['old versions of s.grown'], 'the same rows once more');
        $table->expire(PHP_INT_MAX);
        self::assertArrayNotHasKey('old versions of s.grown', $this->parts());
        self::assertSame([], array_intersect($files, $this->files($table)), 'their files are gone');
    }

    public function test_files_nobody_needs_are_told_when_no_writer_can_be_at_them(): void
    {
        $table = $this->table('left', Distribution::even());
        $this->write($table, 1, 50);
        $lost = dirname($table->file($table->manifest()->chunks[0])).'/c7-0.parquet';
        file_put_contents($lost, str_repeat('x', 123));
        self::assertArrayNotHasKey('files of s.left nobody needs', $this->parts(), 'it may belong to one at work');
        touch($lost, time() - 7_200);
        self::assertSame(123.0 * self::FACTOR, $this->parts()['files of s.left nobody needs']);
    }

    public function test_versions_stay_where_somebody_asked_for_it(): void
    {
        $table = $this->table('kept', Distribution::even());
        self::assertFalse($table->keepsVersions());
        $table->keepVersions();
        self::assertTrue($this->warehouse->table('s', 'kept')?->keepsVersions());
        self::assertSame(PartKind::Versions, PartKind::from('versions'));
    }

    private function table(string $name, Distribution $distribution): TableStore
    {
        return $this->warehouse->createTable('s', $name, new TableDefinition(
            [new Column('id', ColumnType::of(TypeKind::Bigint), false)],
            $distribution,
        ), 1);
    }

    private function write(TableStore $table, int $from, int $to): void
    {
        $writer = new TableWriter($table, $table->manifest(), self::NODES);
        $writer->add([range($from, $to)]);
        $writer->commit(5);
    }

    /**
     * @return array<string, float> bytes by name
     */
    private function parts(): array
    {
        $parts = SpaceReader::parts($this->warehouse, time());

        return array_column(array_map(static fn (StoredPart $one): array => [$one->name(), $one->bytes], $parts), 1, 0);
    }

    private function bytes(TableStore $table): float
    {
        return (float) array_sum(array_map(static fn (Chunk $chunk): int => (int) filesize($table->file($chunk)), $table->manifest()
            ->chunks));
    }

    /**
     * @return list<string>
     */
    private function files(TableStore $table): array
    {
        return array_map(static fn (Chunk $chunk): string => $chunk->file, $table->manifest()->chunks);
    }
}
