<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

/**
 * What one step did on one node. All are counted, none is modelled; bytes are of stored rows.
 */
final class Counters
{
    public int $rowsIn = 0;

    public int $rowsOut = 0;

    public int $chunksRead = 0;

    public int $chunksTotal = 0;

    public int $partitionsRead = 0;

    public int $partitionsTotal = 0;

    public int $bytesRead = 0;

    public int $bytesTotal = 0;

    /** Bytes sent to other nodes. */
    public int $bytesSent = 0;

    /** Most bytes held at once in hash tables, groups and sorts. */
    public int $memoryPeak = 0;

    /** Bytes held beyond the memory of the modelled node, in stored bytes. */
    public int $bytesSpilled = 0;

    /** Time PHP spent in this step on behalf of the node, its inputs' included. */
    public int $elapsedNs = 0;
}
