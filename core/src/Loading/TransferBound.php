<?php

declare(strict_types=1);

namespace Fulcrion\Core\Loading;

/**
 * What keeps a transfer from being faster.
 */
enum TransferBound: string
{
    case TinyFiles = 'tiny-files';
    case OneStream = 'one-stream';
    case Streams = 'streams';
    case Link = 'link';
    case SendingInterface = 'sending-interface';
    case Network = 'network';
    case SourceDisk = 'source-disk';
    case Disk = 'disk';

    /** For people, as a part of a sentence. */
    public function said(): string
    {
        return match ($this) {
            self::TinyFiles => 'what each of its small files takes beside its bytes',
            self::OneStream => 'its one stream',
            self::Streams => 'its few streams',
            self::Link => 'the link',
            self::SendingInterface => 'the network interface of the sender',
            self::Network => 'the network interfaces of the cluster',
            self::SourceDisk => 'the disk it is read from',
            self::Disk => 'the disks it is written to',
        };
    }

    public function isShared(): bool
    {
        return ! in_array($this, [self::TinyFiles, self::OneStream, self::Streams], true);
    }
}
