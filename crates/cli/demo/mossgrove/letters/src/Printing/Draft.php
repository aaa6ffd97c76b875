<?php

namespace Mossgrove\Letters\Drafts;

use Mossgrove\Letters\Printing\Paper;

class Draft
{
    public function __construct(public readonly Paper $paper, public readonly array $lines)
    {
    }
}
