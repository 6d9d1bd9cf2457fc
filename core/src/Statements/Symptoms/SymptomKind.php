<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements\Symptoms;

/**
 * What the counters of a statement show to be wrong with it.
 */
enum SymptomKind: string
{
    case ReadsWithoutIndex = 'reads-without-index';
    case TemporaryTablesOnDisk = 'temporary-tables-on-disk';
    case Fails = 'fails';
}
