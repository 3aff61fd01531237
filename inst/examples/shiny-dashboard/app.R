# Two maps that move together, a ranking and a table, each of which marks what is chosen in the
# others.
library(shiny)
library(bslib)
library(ochre)

districts <- read_boundaries(ochre_demo("districts.geojson"))
districts <- rate_per(districts, population_0_14, population, 100, name = "under_15")
districts <- rate_per(districts, population_65_plus, population, 100, name = "over_64")

map_of <- function(title, column, ramp) {
  map_sheet(title, legend = legend_style(place = "below"), page = page_style(search = FALSE)) |>
    shade_areas(districts, {{ column }}, ramp = ramp, legend = "Percent of residents")
}

table <- data.frame(
  District = districts$name, Region = districts$region,
  `Under 15` = round(districts$under_15, 1), `Over 64` = round(districts$over_64, 1),
  check.names = FALSE
)

ui <- page_fluid(
  title = "Young and old",
  layout_column_wrap(
    1 / 2,
    ochre_output("young", height = "520px", link = "old"),
    ochre_output("old", height = "520px")
  ),
  layout_column_wrap(
    1 / 2,
    card(card_header("The oldest districts"), plotOutput("ranking", height = "300px")),
    card(card_header("All districts"), DT::DTOutput("table", height = "300px"))
  )
)

server <- function(input, output, session) {
  output$young <- render_ochre(map_of("Under 15", under_15, "verdigris"))
  output$old <- render_ochre(map_of("Over 64", over_64, "madder"))
  output$table <- DT::renderDT(
    table,
    rownames = FALSE, style = "default", fillContainer = TRUE,
    options = list(dom = "ft", paging = FALSE)
  )
  # What is chosen on a map is a row of the table, and the rows are marked on both maps.
  proxy <- DT::dataTableProxy("table")
  observeEvent(input$young_chosen, DT::selectRows(proxy, input$young_chosen$row))
  observeEvent(input$old_chosen, DT::selectRows(proxy, input$old_chosen$row))
  marked <- reactive(districts$code[input$table_rows_selected])
  observe({
    mark_areas(live_map("young"), marked())
    mark_areas(live_map("old"), marked())
  })
  output$ranking <- renderPlot({
    ranked <- districts[order(districts$over_64), ]
    oldest <- utils::tail(ranked$code, 12)
    ranked <- ranked[ranked$code %in% c(marked(), oldest), ]
    shown <- ranked$code %in% marked()
    par(mar = c(3, 11, 0.5, 1), las = 1)
    barplot(
      ranked$over_64, names.arg = ranked$name, horiz = TRUE, border = NA,
      col = ifelse(shown, "#5a2a27", "#b9a38f"), cex.names = 0.9
    )
  })
}

shinyApp(ui, server)
