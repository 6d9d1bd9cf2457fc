<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Storage\TableDefinition;

/**
 * What catalogs tell of one version of a table. It never changes, and is far smaller than the list of its chunks.
 *
 * @phpstan-import-type DefinitionArray from TableDefinition
 */
final readonly class StoredFacts
{
    /**
     * @param  list<int>  $rowsByNode
     */
    public function __construct(
        public int $version,
        public TableDefinition $definition,
        public int $rows,
        /** Of all files, copies on every node counted once a node. */
        public int $bytes,
        public int $chunks,
        public int $partitions,
        public array $rowsByNode,
        public int $rowsChanged,
        /** Chunks below a quarter of the rows they should have. */
        public int $smallChunks,
    ) {
    }

    public static function of(Manifest $manifest, int $nodes): self
    {
        return new self(
            $manifest->version,
            $manifest->definition,
            $manifest->rows(),
            $manifest->bytes($nodes),
            count($manifest->chunks),
            $manifest->partitionCount(),
            $manifest->rowsByNode($nodes),
            $manifest->rowsChanged,
            $manifest->smallChunks(),
        );
    }

    public function toJson(): string
    {
        $values = get_object_vars($this);
        unset($values['definition']);

        return json_encode($values + $this->definition->toArray(), JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE);
    }

    /** Null where the text is not whole. */
    public static function fromJson(string $json): ?self
    {
        $v = json_decode($json, true, 16);

        /** @var DefinitionArray $definition where the text is whole */
        $definition = $v;

        return is_array($v) && isset($v['version'], $v['rowsByNode'], $v['rowsChanged'], $v['smallChunks'])
            ? new self(
                $v['version'],
                TableDefinition::fromArray($definition),
                $v['rows'],
                $v['bytes'],
                $v['chunks'],
                $v['partitions'],
                $v['rowsByNode'],
                $v['rowsChanged'],
                $v['smallChunks'],
            )
            : null;
    }
}
