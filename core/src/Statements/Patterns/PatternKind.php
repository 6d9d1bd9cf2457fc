<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements\Patterns;

/**
 * Ways an application asks more often than it needs to.
 */
enum PatternKind: string
{
    /** One statement reads a list, another one is then run for each of its rows ("N+1"). */
    case RepeatedLookup = 'n+1';

    /** The same question again and again, at even intervals, that mostly has no answer. */
    case Polling = 'polling';

    /** A row is looked for before it is inserted, each time. */
    case ReadBeforeInsert = 'read-before-insert';
}
