<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

enum TaskState: string
{
    case Waiting = 'waiting';
    case Running = 'running';
    case Done = 'done';
    case Failed = 'failed';
}
