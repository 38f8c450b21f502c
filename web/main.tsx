document.title = 'Keen Almanac';
