<?php

declare(strict_types=1);

namespace App\Health\Charts;

use Fulcrion\Core\Text\Quantity;

/**
 * What is looked at of a host.
 */
final class HostCharts
{
    /**
     * @return list<StateChart>
     */
    public static function all(): array
    {
        $bytes = static fn (float $value): string => Quantity::bytes($value).'/s';

        return [
            new StateChart('processor', 'Processors at work', 'How many of the host\'s processors were busy on the mean, for programs and '
                .'for the system, and how many waited for a disk: growth of the times the kernel counts.', [
                    Measure::rate('programs', 'cpu.user'), Measure::rate('system', 'cpu.system'),
                    Measure::rate('waiting for disks', 'cpu.iowait'),
                ], Quantity::digits(...)),
            new StateChart('stolen', 'Taken by other machines', 'How many processors this machine wanted and the one below gave to '
                .'others.', [
                    Measure::rate('taken', 'cpu.steal'),
                ], Quantity::digits(...)),
            new StateChart('memory', 'Memory', 'Used is what could not be given to a program at once.', [
                Measure::most('used', 'memory.used'), Measure::most('there is', 'memory.limit'),
            ], Quantity::bytes(...), 1024),
            new StateChart('disks', 'Disks', 'Bytes read and written by all disks together, each a second.', [
                Measure::rate('read', 'disk.read'), Measure::rate('written', 'disk.write'),
            ], $bytes, 1024),
            new StateChart('disk-busy', 'Disks at work', 'How many disks were at work on the mean.', [
                Measure::rate('at work', 'disk.busy'),
            ], Quantity::digits(...)),
            new StateChart('network', 'Network', 'Bytes that came and went by all interfaces that lead out, each a second.', [
                Measure::rate('in', 'network.in'), Measure::rate('out', 'network.out'),
            ], $bytes, 1024),
            new StateChart('load', 'Load average', 'Programs that ran or waited for a processor or a disk, over a minute, as the kernel '
                .'says.', [Measure::most('load', 'load')], Quantity::digits(...)),
            new StateChart('swapping', 'Swapping', 'Pages a second that were brought into memory and taken out of it.', [
                Measure::rate('in', 'swap.in'), Measure::rate('out', 'swap.out'),
            ], Quantity::digits(...)),
            new StateChart('space', 'File systems', 'Used, of what there is.', [
                Measure::most('used', 'disk.used'), Measure::most('there is', 'disk.limit'),
            ], Quantity::bytes(...), 1024),
        ];
    }
}
